//! Undoing decisions and doing them again.

use sqlx::{PgConnection, PgPool};
use strelm_core::tray::{Decision, TurnEffect, Turning, turned};

use super::answered::{Answered, note, under_key};
use super::row::DecisionRow;
use super::{Maker, entry};
use crate::{SiteId, StoreError, journal, lock, passed, tray};

/// Undoes the latest decision of a hand that can still be undone, and gives it; `None` when there is none. A conflict
/// says that its words carry another link by now.
///
/// What went out since is not undone: a release is taken back as a whole.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then. [`StoreError::Refused`] when that was the answer to this key.
pub async fn undo(pool: &PgPool, site: SiteId, maker: Maker) -> Result<Option<Decision>, StoreError> {
    turn(pool, site, maker, Turning::Back).await
}

/// Does again what was undone last by a hand, and gives it; `None` when there is nothing to do again.
///
/// # Errors
/// As [`undo`].
pub async fn redo(pool: &PgPool, site: SiteId, maker: Maker) -> Result<Option<Decision>, StoreError> {
    turn(pool, site, maker, Turning::Again).await
}

/// Decisions, in an order: the rest of a query after `from decision`.
macro_rules! decisions {
    ($rest:tt, $($argument:expr),* $(,)?) => {
        sqlx::query_as!(
            DecisionRow,
            "select id, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                    place is not null as has_place
             from decision " + $rest,
            $($argument),*
        )
    };
}

async fn turn(pool: &PgPool, site: SiteId, maker: Maker, way: Turning) -> Result<Option<Decision>, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    match under_key(&mut tx, site, maker.key).await? {
        Some(Answered::Done(decision)) => return Ok(Some(decision)),
        Some(Answered::Nothing) => return Ok(None),
        Some(Answered::Refused(why)) => return Err(StoreError::Refused(why)),
        None => {}
    }
    let row = match way {
        Turning::Back => latest(&mut tx, site, maker).await?,
        Turning::Again => undone_last(&mut tx, site, maker).await?,
    };
    let found = row.map(DecisionRow::into_decision).transpose()?;
    if let Some((id, decision)) = &found {
        apply(&mut tx, site, decision, way).await?;
        sqlx::query!("update decision set undone = $2 where id = $1", id, way == Turning::Back)
            .execute(&mut *tx)
            .await?;
    }
    let decision = found.map(|(_, decision)| decision);
    note(&mut tx, site, maker.key, &decision.clone().map_or(Answered::Nothing, Answered::Done)).await?;
    if let Some(decision) = &decision {
        journal::append(&mut *tx, site, &entry(decision)).await?;
    }
    tx.commit().await?;
    Ok(decision)
}

/// The latest decision that still holds.
async fn latest(tx: &mut PgConnection, site: SiteId, maker: Maker) -> Result<Option<DecisionRow>, StoreError> {
    let row = decisions!(
        " d
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
async fn undone_last(tx: &mut PgConnection, site: SiteId, maker: Maker) -> Result<Option<DecisionRow>, StoreError> {
    let row = decisions!(
        "
         where site_id = $1 and hand = $2 and undone order by id limit 1",
        site.0,
        maker.hand,
    );
    Ok(row.fetch_optional(tx).await?)
}

async fn apply(tx: &mut PgConnection, site: SiteId, decision: &Decision, way: Turning) -> Result<(), StoreError> {
    match turned(decision.kind, way) {
        TurnEffect::Moved { from, to } => {
            tray::move_between(tx, site, &decision.changes, from, to).await?;
        }
        TurnEffect::Passed(is_passed) => {
            if let Some(passed) = decision.passed() {
                passed::set(tx, site, &passed, is_passed).await?;
            }
        }
    }
    Ok(())
}
