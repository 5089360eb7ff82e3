//! Undoing decisions and doing them again.

use sqlx::{PgConnection, PgPool};

use super::answered::{Answered, note, under_key};
use super::row::Row;
use super::{Decision, Kind, Maker};
use crate::journal;
use crate::taken::{self, TakenState};
use crate::{SiteId, StoreError, lock, passed};

/// Undoes the latest decision of a hand that can still be undone, and gives it; `None` when there is none. A conflict
/// says that its words carry another link by now.
///
/// What went out since is not undone: a release is taken back as a whole.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then. [`StoreError::Refused`] when that was the answer to this key.
pub async fn undo(pool: &PgPool, site: SiteId, maker: Maker) -> Result<Option<Decision>, StoreError> {
    turn(pool, site, maker, Way::Back).await
}

/// Does again what was undone last by a hand, and gives it; `None` when there is nothing to do again.
///
/// # Errors
/// As [`undo`].
pub async fn redo(pool: &PgPool, site: SiteId, maker: Maker) -> Result<Option<Decision>, StoreError> {
    turn(pool, site, maker, Way::Again).await
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Way {
    Back,
    Again,
}

async fn turn(pool: &PgPool, site: SiteId, maker: Maker, way: Way) -> Result<Option<Decision>, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    match under_key(&mut tx, site, maker.key).await? {
        Some(Answered::Done(decision)) => return Ok(Some(decision)),
        Some(Answered::Nothing) => return Ok(None),
        Some(Answered::Refused(why)) => return Err(StoreError::Refused(why)),
        None => {}
    }
    let row = match way {
        Way::Back => latest(&mut tx, site, maker).await?,
        Way::Again => undone_last(&mut tx, site, maker).await?,
    };
    let found = row.map(Row::into_decision).transpose()?;
    if let Some((id, decision)) = &found {
        apply(&mut tx, site, decision, way == Way::Back).await?;
        sqlx::query!("update decision set undone = $2 where id = $1", id, way == Way::Back).execute(&mut *tx).await?;
    }
    let decision = found.map(|(_, decision)| decision);
    note(&mut tx, site, maker.key, &decision.clone().map_or(Answered::Nothing, Answered::Done)).await?;
    if let Some(decision) = &decision {
        journal::append(&mut *tx, site, &decision.entry()).await?;
    }
    tx.commit().await?;
    Ok(decision)
}

/// The latest decision that still holds.
async fn latest(tx: &mut PgConnection, site: SiteId, maker: Maker) -> Result<Option<Row>, StoreError> {
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
         order by id desc limit 1",
        site.0,
        maker.hand,
    );
    Ok(row.fetch_optional(tx).await?)
}

/// Of what was undone the first: that was undone last.
async fn undone_last(tx: &mut PgConnection, site: SiteId, maker: Maker) -> Result<Option<Row>, StoreError> {
    let row = sqlx::query_as!(
        Row,
        "select id, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                place is not null as has_place
         from decision
         where site_id = $1 and hand = $2 and undone order by id limit 1",
        site.0,
        maker.hand,
    );
    Ok(row.fetch_optional(tx).await?)
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
