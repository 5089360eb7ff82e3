//! Decisions: made once however often they are sent, undone and done again.

mod answered;
mod row;
mod turn;

use sqlx::{PgConnection, PgPool};
use strelm_core::site::{ChangeId, PageId};
use uuid::Uuid;

use crate::journal::{self, Entry};
use crate::passed::{self, Passed, Place};
use crate::taken::{self, NewLink, TakenState};
use crate::{SiteId, StoreError, lesson, lock, number};

pub use self::answered::{Answered, LeftOut, answered, prune, refuse};
use self::answered::{note, under_key};
pub use self::turn::{redo, undo};

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    Take,
    Drop,
    Pass,
    BringBack,
    /// Changes links that are on a page.
    Repair,
}

impl Kind {
    pub const ALL: [Self; 5] = [Self::Take, Self::Drop, Self::Pass, Self::BringBack, Self::Repair];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Take => "take",
            Self::Drop => "drop",
            Self::Pass => "pass",
            Self::BringBack => "bring back",
            Self::Repair => "repair",
        }
    }
}

/// Who decides, and the decision's own number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Maker {
    /// A browser's own number: undoing undoes what was decided there.
    pub hand: Uuid,
    /// A decision that arrives twice with the same key is made once.
    pub key: Uuid,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Decision {
    pub kind: Kind,
    pub changes: Vec<ChangeId>,
    pub source: Option<PageId>,
    pub target: Option<PageId>,
    pub anchor: String,
    /// The one place that was passed or brought back, when it was one.
    pub place: Option<Place>,
    /// Of many links, those that could not be taken; known when the decision is made, not when it is undone.
    pub refused: Vec<LeftOut>,
}

impl Decision {
    fn of_links(kind: Kind, changes: Vec<ChangeId>, links: &[NewLink]) -> Self {
        let (source, target, anchor) = match links {
            [only] => (Some(only.source), only.target, only.anchor.clone()),
            many if kind == Kind::Repair && many.windows(2).all(|pair| pair[0].source == pair[1].source) => {
                let first = many.first();
                (
                    first.map(|link| link.source),
                    first.and_then(|link| link.target),
                    first.map(|link| link.anchor.clone()).unwrap_or_default(),
                )
            }
            many => (None, None, format!("{} links", many.len())),
        };
        Self { kind, changes, source, target, anchor, place: None, refused: Vec::new() }
    }

    fn of_passed(kind: Kind, passed: &Passed) -> Self {
        Self {
            kind,
            changes: Vec::new(),
            source: passed.source,
            target: Some(passed.target),
            anchor: passed.anchor.clone(),
            place: passed.place.clone(),
            refused: Vec::new(),
        }
    }

    /// What was passed or brought back.
    fn passed(&self) -> Option<Passed> {
        let target = self.target?;
        Some(Passed { source: self.source, target, anchor: self.anchor.clone(), place: self.place.clone() })
    }

    fn entry(&self) -> Entry {
        match (self.kind, self.target) {
            (Kind::Pass | Kind::BringBack, Some(target)) => Entry::Passed(target),
            _ => Entry::Taken(self.changes.clone()),
        }
    }
}

/// What each part of a fit added when it was decided, for those that had one.
pub type Lessons<'l> = &'l [[f32; 5]];

/// What an editor decides.
#[derive(Debug, Clone)]
pub enum Wish<'w> {
    /// One link or many, not none: all of them or none is taken. Those that were wished for and could not be taken are
    /// only told.
    Take(&'w [NewLink], Lessons<'w>, &'w [LeftOut]),
    /// Links to one address, not none. Those that could not be mended are only told.
    Repair(&'w [NewLink], &'w [LeftOut]),
    Drop(&'w [ChangeId]),
    Pass(&'w Passed, Lessons<'w>),
    BringBack(&'w Passed),
}

/// How a decision ended.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Made {
    /// Made now, or earlier under the same key.
    Done(Decision),
    /// Nothing of it could be done any more: somebody was faster.
    TooLate,
    /// Refused earlier under the same key, for this reason.
    Refused(String),
}

/// Makes a decision. A conflict says that the words, or the pair of pages, carry another link in the tray.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn make(pool: &PgPool, site: SiteId, maker: Maker, wish: &Wish<'_>) -> Result<Made, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    match under_key(&mut tx, site, maker.key).await? {
        Some(Answered::Done(decision)) => return Ok(Made::Done(decision)),
        Some(Answered::Nothing) => return Ok(Made::TooLate),
        Some(Answered::Refused(why)) => return Ok(Made::Refused(why)),
        None => {}
    }
    let decision = match wish {
        Wish::Take(links, _, refused) => {
            let decision = Decision::of_links(Kind::Take, insert(&mut tx, site, links).await?, links);
            Decision { refused: refused.to_vec(), ..decision }
        }
        Wish::Repair(links, refused) => {
            let decision = Decision::of_links(Kind::Repair, insert(&mut tx, site, links).await?, links);
            Decision { refused: refused.to_vec(), ..decision }
        }
        Wish::Drop(changes) => {
            let dropped = taken::move_between(&mut tx, site, changes, TakenState::Tray, TakenState::Dropped).await?;
            let anchor = match dropped.as_slice() {
                [only] => anchor_of(&mut tx, *only).await?,
                many => format!("{} links", many.len()),
            };
            Decision { anchor, ..Decision::of_links(Kind::Drop, dropped, &[]) }
        }
        Wish::Pass(passed, _) | Wish::BringBack(passed) => {
            let is_passed = matches!(wish, Wish::Pass(..));
            if !passed::set(&mut tx, site, passed, is_passed).await? {
                return Ok(Made::TooLate);
            }
            Decision::of_passed(if is_passed { Kind::Pass } else { Kind::BringBack }, passed)
        }
    };
    if decision.changes.is_empty() && !matches!(decision.kind, Kind::Pass | Kind::BringBack) {
        return Ok(Made::TooLate);
    }
    // What was undone cannot be done again once something else was decided.
    sqlx::query!("delete from decision where site_id = $1 and hand = $2 and undone", site.0, maker.hand)
        .execute(&mut *tx)
        .await?;
    let id = record(&mut tx, site, maker, &decision).await?;
    note(&mut tx, site, maker.key, &Answered::Done(decision.clone())).await?;
    if let Wish::Take(_, lessons, _) | Wish::Pass(_, lessons) = wish {
        lesson::add(&mut tx, site, id, matches!(wish, Wish::Take(..)), lessons).await?;
    }
    journal::append(&mut *tx, site, &decision.entry()).await?;
    tx.commit().await?;
    Ok(Made::Done(decision))
}

async fn insert(tx: &mut PgConnection, site: SiteId, links: &[NewLink]) -> Result<Vec<ChangeId>, StoreError> {
    let mut changes = Vec::with_capacity(links.len());
    for link in links {
        changes.push(taken::insert(tx, site, link).await?);
    }
    Ok(changes)
}

async fn anchor_of(tx: &mut PgConnection, change: ChangeId) -> Result<String, StoreError> {
    let anchor = sqlx::query_scalar!("select anchor from taken_link where id = $1", change.0);
    Ok(anchor.fetch_one(tx).await?)
}

async fn record(tx: &mut PgConnection, site: SiteId, maker: Maker, decision: &Decision) -> Result<i64, StoreError> {
    let changes: Vec<_> = decision.changes.iter().map(|change| change.0).collect();
    let place = decision.place.as_ref();
    let key = decision.passed().and_then(|passed| passed.place_key());
    let id = sqlx::query_scalar!(
        "insert into decision (site_id, hand, key, kind, changes, source_number, target_number, anchor, before_anchor,
                               after_anchor, place)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) returning id",
        site.0,
        maker.hand,
        maker.key,
        decision.kind.as_str(),
        &changes,
        decision.source.map(number),
        decision.target.map(number),
        decision.anchor,
        place.map_or("", |place| place.before.as_str()),
        place.map_or("", |place| place.after.as_str()),
        key.as_ref().map(|key| key.as_bytes()),
    )
    .fetch_one(tx)
    .await?;
    Ok(id)
}
