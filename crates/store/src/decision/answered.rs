//! One key, one effect, one answer: what orders were answered under their own numbers.

use sqlx::types::Json;
use sqlx::{PgConnection, PgPool};
use strelm_core::tray::{Decision, LeftOut};
use uuid::Uuid;

use super::row::DecisionRow;
use crate::{SiteId, StoreError, lock, number};

/// What an order was answered.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Answered {
    Done(Decision),
    /// There was nothing to undo, or to do again.
    Nothing,
    /// Why nothing was done.
    Refused(String),
}

/// What was answered under a key, if an order with it came before. One look-up by key.
///
/// # Errors
/// [`StoreError`].
pub async fn answered(pool: &PgPool, site: SiteId, key: Uuid) -> Result<Option<Answered>, StoreError> {
    let mut connection = pool.acquire().await?;
    under_key(&mut connection, site, key).await
}

/// Answers a key by a refusal, unless it has an answer already; gives the answer that holds.
///
/// # Errors
/// [`StoreError`].
pub async fn refuse(pool: &PgPool, site: SiteId, key: Uuid, why: &str) -> Result<Answered, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    if let Some(answered) = under_key(&mut tx, site, key).await? {
        return Ok(answered);
    }
    let refused = Answered::Refused(why.to_owned());
    note(&mut tx, site, key, &refused).await?;
    tx.commit().await?;
    Ok(refused)
}

/// How long answers are kept, in days: a browser that was away for longer asks as if it were for the first time.
const KEPT_DAYS: i32 = 90;

/// Removes old answers.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn prune(pool: &PgPool, site: SiteId) -> Result<(), StoreError> {
    sqlx::query!(
        "delete from decision_answer where site_id = $1 and answered_at < now() - make_interval(days => $2)",
        site.0,
        KEPT_DAYS,
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// To be asked while the lock on the tray is held, so that no order with the same key is under way.
pub(super) async fn under_key(tx: &mut PgConnection, site: SiteId, key: Uuid) -> Result<Option<Answered>, StoreError> {
    let row = sqlx::query!(
        "select kind, changes, source_number, target_number, anchor, before_anchor, after_anchor,
                place is not null as \"has_place!\", refused as \"refused: Json<Vec<LeftOut>>\", refusal
         from decision_answer where site_id = $1 and key = $2",
        site.0,
        key,
    )
    .fetch_optional(tx)
    .await?;
    let Some(row) = row else { return Ok(None) };
    let Some(kind) = row.kind else { return Ok(Some(row.refusal.map_or(Answered::Nothing, Answered::Refused))) };
    let decision = DecisionRow {
        id: 0,
        kind,
        changes: row.changes,
        source_number: row.source_number,
        target_number: row.target_number,
        anchor: row.anchor,
        before_anchor: row.before_anchor,
        after_anchor: row.after_anchor,
        has_place: Some(row.has_place),
    };
    let (_, decision) = decision.into_decision()?;
    Ok(Some(Answered::Done(Decision { refused: row.refused.0, ..decision })))
}

pub(super) async fn note(tx: &mut PgConnection, site: SiteId, key: Uuid, is: &Answered) -> Result<(), StoreError> {
    let (decision, refusal) = match is {
        Answered::Done(decision) => (Some(decision), None),
        Answered::Nothing => (None, None),
        Answered::Refused(why) => (None, Some(why.as_str())),
    };
    let changes = decision.map(|decision| decision.changes.iter().map(|change| change.0).collect::<Vec<_>>());
    let place = decision.and_then(|decision| decision.place.as_ref());
    let place_key = decision.and_then(Decision::passed).and_then(|passed| passed.place_key());
    sqlx::query!(
        "insert into decision_answer (site_id, key, kind, changes, source_number, target_number, anchor, before_anchor,
                                      after_anchor, place, refused, refusal)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)",
        site.0,
        key,
        decision.map(|decision| decision.kind.as_str()),
        &changes.unwrap_or_default(),
        decision.and_then(|decision| decision.source).map(number),
        decision.and_then(|decision| decision.target).map(number),
        decision.map_or("", |decision| decision.anchor.as_str()),
        place.map_or("", |place| place.before.as_str()),
        place.map_or("", |place| place.after.as_str()),
        place_key.as_ref().map(|key| key.as_bytes()),
        Json(decision.map_or(&[][..], |decision| decision.refused.as_slice())) as _,
        refusal,
    )
    .execute(tx)
    .await?;
    Ok(())
}
