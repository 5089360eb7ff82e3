//! Decisions: made once however often they are sent, undone and done again.

use sqlx::{PgConnection, PgPool};
use strelm_core::site::{ChangeId, PageId};
use uuid::Uuid;

use crate::journal::{self, Entry};
use crate::passed::{self, Passed, Place};
use crate::taken::{self, NewLink, TakenState};
use crate::{SiteId, StoreError, lesson, number, page_id};

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
}

impl Decision {
    fn of_links(kind: Kind, changes: Vec<ChangeId>, links: &[NewLink]) -> Self {
        let (source, target, anchor) = match links {
            [only] => (Some(only.source), only.target, only.anchor.clone()),
            many if kind == Kind::Repair => {
                let first = many.first();
                (
                    first.map(|link| link.source),
                    first.and_then(|link| link.target),
                    first.map(|link| link.anchor.clone()).unwrap_or_default(),
                )
            }
            many => (None, None, format!("{} links", many.len())),
        };
        Self { kind, changes, source, target, anchor, place: None }
    }

    fn of_passed(kind: Kind, passed: &Passed) -> Self {
        Self {
            kind,
            changes: Vec::new(),
            source: passed.source,
            target: Some(passed.target),
            anchor: passed.anchor.clone(),
            place: passed.place.clone(),
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
    /// One link or many, not none: all of them or none is taken.
    Take(&'w [NewLink], Lessons<'w>),
    /// Links of one page, not none.
    Repair(&'w [NewLink]),
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
}

/// Makes a decision. A conflict says that the words, or the pair of pages, carry another link in the tray.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn make(pool: &PgPool, site: SiteId, maker: Maker, wish: &Wish<'_>) -> Result<Made, StoreError> {
    let mut tx = pool.begin().await?;
    if let Some(made) = under_key(&mut tx, site, maker.key).await? {
        return Ok(Made::Done(made));
    }
    let decision = match wish {
        Wish::Take(links, _) => Decision::of_links(Kind::Take, insert(&mut tx, site, links).await?, links),
        Wish::Repair(links) => Decision::of_links(Kind::Repair, insert(&mut tx, site, links).await?, links),
        Wish::Drop(changes) => {
            let dropped = taken::move_between(&mut tx, site, changes, TakenState::Tray, TakenState::Dropped).await?;
            let anchor = match dropped.as_slice() {
                [only] => anchor_of(&mut tx, *only).await?,
                many => format!("{} links", many.len()),
            };
            Decision { kind: Kind::Drop, changes: dropped, source: None, target: None, anchor, place: None }
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
    if let Wish::Take(_, lessons) | Wish::Pass(_, lessons) = wish {
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

struct Row {
    id: i64,
    kind: String,
    changes: Vec<i64>,
    source_number: Option<i32>,
    target_number: Option<i32>,
    anchor: String,
    before_anchor: String,
    after_anchor: String,
    has_place: Option<bool>,
}

impl Row {
    fn into_decision(self) -> Result<(i64, Decision), StoreError> {
        let kind = Kind::ALL.into_iter().find(|kind| kind.as_str() == self.kind);
        let decision = Decision {
            kind: kind.ok_or(StoreError::Unknown { what: "a kind of decision", value: self.kind })?,
            changes: self.changes.into_iter().map(ChangeId).collect(),
            source: self.source_number.map(page_id),
            target: self.target_number.map(page_id),
            anchor: self.anchor,
            place: self
                .has_place
                .unwrap_or_default()
                .then_some(Place { before: self.before_anchor, after: self.after_anchor }),
        };
        Ok((self.id, decision))
    }
}

/// The decision that was made under a key, if there is one.
///
/// # Errors
/// [`StoreError`].
pub async fn made_before(pool: &PgPool, site: SiteId, key: Uuid) -> Result<Option<Decision>, StoreError> {
    let mut connection = pool.acquire().await?;
    under_key(&mut connection, site, key).await
}

async fn under_key(tx: &mut PgConnection, site: SiteId, key: Uuid) -> Result<Option<Decision>, StoreError> {
    let row = sqlx::query_as!(
        Row,
        "select id, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                place is not null as has_place
         from decision where site_id = $1 and key = $2",
        site.0,
        key,
    )
    .fetch_optional(tx)
    .await?;
    Ok(row.map(Row::into_decision).transpose()?.map(|(_, decision)| decision))
}

async fn turned_by(tx: &mut PgConnection, site: SiteId, key: Uuid) -> Result<Option<Decision>, StoreError> {
    let row = sqlx::query_as!(
        Row,
        "select id, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                place is not null as has_place
         from decision
         where site_id = $1 and turned_by = $2",
        site.0,
        key,
    )
    .fetch_optional(tx)
    .await?;
    Ok(row.map(Row::into_decision).transpose()?.map(|(_, decision)| decision))
}

/// Undoes the latest decision of a hand that can still be undone, and gives it; `None` when there is none. A conflict
/// says that its words carry another link by now.
///
/// What went out since is not undone: a release is taken back as a whole.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn undo(pool: &PgPool, site: SiteId, maker: Maker) -> Result<Option<Decision>, StoreError> {
    let mut tx = pool.begin().await?;
    if let Some(turned) = turned_by(&mut tx, site, maker.key).await? {
        return Ok(Some(turned));
    }
    let row = sqlx::query_as!(
        Row,
        "select id, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                place is not null as has_place
         from decision d
         where site_id = $1 and hand = $2 and not undone and case kind
             when 'repair' then exists (select from taken_link t where t.id = any(d.changes) and t.state = 'tray')
             when 'take' then exists (select from taken_link t where t.id = any(d.changes) and t.state = 'tray')
             when 'drop' then exists (select from taken_link t where t.id = any(d.changes) and t.state = 'dropped')
             else exists (select from passed_opening p where p.site_id = $1
                              and p.source_number is not distinct from d.source_number
                              and p.target_number = d.target_number
                              and p.place is not distinct from d.place) = (kind = 'pass') end
         order by id desc limit 1 for update",
        site.0,
        maker.hand,
    )
    .fetch_optional(&mut *tx)
    .await?;
    let Some((id, decision)) = row.map(Row::into_decision).transpose()? else { return Ok(None) };
    apply(&mut tx, site, &decision, true).await?;
    sqlx::query!("update decision set undone = true, turned_by = $2 where id = $1", id, maker.key)
        .execute(&mut *tx)
        .await?;
    journal::append(&mut *tx, site, &decision.entry()).await?;
    tx.commit().await?;
    Ok(Some(decision))
}

/// Does again what was undone last by a hand, and gives it; `None` when there is nothing to do again.
///
/// # Errors
/// As [`undo`].
pub async fn redo(pool: &PgPool, site: SiteId, maker: Maker) -> Result<Option<Decision>, StoreError> {
    let mut tx = pool.begin().await?;
    if let Some(turned) = turned_by(&mut tx, site, maker.key).await? {
        return Ok(Some(turned));
    }
    let row = sqlx::query_as!(
        Row,
        "select id, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                place is not null as has_place
         from decision
         where site_id = $1 and hand = $2 and undone order by id limit 1 for update",
        site.0,
        maker.hand,
    )
    .fetch_optional(&mut *tx)
    .await?;
    let Some((id, decision)) = row.map(Row::into_decision).transpose()? else { return Ok(None) };
    apply(&mut tx, site, &decision, false).await?;
    sqlx::query!("update decision set undone = false, turned_by = $2 where id = $1", id, maker.key)
        .execute(&mut *tx)
        .await?;
    journal::append(&mut *tx, site, &decision.entry()).await?;
    tx.commit().await?;
    Ok(Some(decision))
}

async fn apply(tx: &mut PgConnection, site: SiteId, decision: &Decision, backwards: bool) -> Result<(), StoreError> {
    let (tray, dropped) = (TakenState::Tray, TakenState::Dropped);
    match (decision.kind, backwards) {
        (Kind::Take | Kind::Repair, true) | (Kind::Drop, false) => {
            taken::move_between(tx, site, &decision.changes, tray, dropped).await?;
        }
        (Kind::Take | Kind::Repair, false) | (Kind::Drop, true) => {
            taken::move_between(tx, site, &decision.changes, dropped, tray).await?;
        }
        (Kind::Pass | Kind::BringBack, _) => {
            let Some(passed) = decision.passed() else { return Ok(()) };
            let is_passed = (decision.kind == Kind::Pass) != backwards;
            passed::set(tx, site, &passed, is_passed).await?;
        }
    }
    Ok(())
}
