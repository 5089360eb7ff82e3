//! Decisions: made once however often they are sent, undone and done again.

mod answered;
mod row;
mod turn;

use sqlx::{PgConnection, PgPool};
use strelm_core::site::ChangeId;
use strelm_core::tray::{Decision, DecisionKind, LeftOut, Passed, PlannedLink, TrayState};
use uuid::Uuid;

use crate::journal::{self, Entry};
use crate::{SiteId, StoreError, lesson, lock, number, passed, tray};

pub use self::answered::{Answered, answered, prune, refuse};
use self::answered::{note, under_key};
pub use self::turn::{redo, undo};

/// Who decides, and the decision's own number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Maker {
    /// A browser's own number: undoing undoes what was decided there.
    pub hand: Uuid,
    /// A decision that arrives twice with the same key is made once.
    pub key: Uuid,
}

/// What a reader of the journal is to look up after a decision.
fn entry(decision: &Decision) -> Entry {
    match (decision.kind, decision.target) {
        (DecisionKind::Pass | DecisionKind::BringBack, Some(target)) => Entry::Passed(target),
        _ => Entry::Taken(decision.changes.clone()),
    }
}

/// What each part of a fit added when it was decided, for those that had one.
pub type Lessons<'l> = &'l [[f32; 5]];

/// What an editor decides.
#[derive(Debug, Clone)]
pub enum Wish<'w> {
    /// One link or many, not none: all of them or none is taken. Those that were wished for and could not be taken are
    /// only told.
    Take(&'w [PlannedLink], Lessons<'w>, &'w [LeftOut]),
    /// Links to one address, not none. Those that could not be mended are only told.
    Repair(&'w [PlannedLink], &'w [LeftOut]),
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
            let decision = Decision::of_links(DecisionKind::Take, insert(&mut tx, site, links).await?, links);
            Decision { refused: refused.to_vec(), ..decision }
        }
        Wish::Repair(links, refused) => {
            let decision = Decision::of_links(DecisionKind::Repair, insert(&mut tx, site, links).await?, links);
            Decision { refused: refused.to_vec(), ..decision }
        }
        Wish::Drop(changes) => {
            let dropped = tray::move_between(&mut tx, site, changes, TrayState::Tray, TrayState::Dropped).await?;
            let anchor = match dropped.as_slice() {
                [only] => anchor_of(&mut tx, *only).await?,
                many => format!("{} links", many.len()),
            };
            Decision { anchor, ..Decision::of_links(DecisionKind::Drop, dropped, &[]) }
        }
        Wish::Pass(passed, _) | Wish::BringBack(passed) => {
            let is_passed = matches!(wish, Wish::Pass(..));
            if !passed::set(&mut tx, site, passed, is_passed).await? {
                return Ok(Made::TooLate);
            }
            Decision::of_passed(if is_passed { DecisionKind::Pass } else { DecisionKind::BringBack }, passed)
        }
    };
    if decision.changes.is_empty() && !matches!(decision.kind, DecisionKind::Pass | DecisionKind::BringBack) {
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
    journal::append(&mut *tx, site, &entry(&decision)).await?;
    tx.commit().await?;
    Ok(Made::Done(decision))
}

async fn insert(tx: &mut PgConnection, site: SiteId, links: &[PlannedLink]) -> Result<Vec<ChangeId>, StoreError> {
    let mut changes = Vec::with_capacity(links.len());
    for link in links {
        changes.push(tray::insert(tx, site, link).await?);
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
