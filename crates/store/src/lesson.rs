//! What an editor's decisions teach about openings.

use sqlx::{PgConnection, PgPool};
use strelm_core::openings::Lesson;

use crate::journal::{self, Entry};
use crate::{SiteId, StoreError};

/// Lessons beyond the latest so many are not looked at: taste changes.
const MOST: i64 = 2000;

/// Which lessons are learnt from: the same for the same lessons.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Learnt {
    pub count: usize,
    /// A sum over their numbers; `None` without lessons.
    mark: Option<String>,
}

/// Adds what a decision teaches, inside a transaction.
pub(crate) async fn add(
    tx: &mut PgConnection,
    site: SiteId,
    decision: i64,
    kept: bool,
    adds: &[[f32; 5]],
) -> Result<(), StoreError> {
    for adds in adds {
        sqlx::query!(
            "insert into lesson (site_id, decision_id, kept, adds) values ($1, $2, $3, $4)",
            site.0,
            decision,
            kept,
            adds.as_slice(),
        )
        .execute(&mut *tx)
        .await?;
    }
    Ok(())
}

/// How many takes and how many passes teach something. What was undone, dropped or brought back teaches nothing.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn count(pool: &PgPool, site: SiteId) -> Result<(usize, usize), StoreError> {
    let row = sqlx::query!(
        "select count(*) filter (where kept) as \"taken!\", count(*) filter (where not kept) as \"passed!\"
         from lesson_that_counts where site_id = $1",
        site.0,
    )
    .fetch_one(pool)
    .await?;
    Ok((usize::try_from(row.taken).unwrap_or_default(), usize::try_from(row.passed).unwrap_or_default()))
}

/// What the first `count` lessons are. Undoing an early decision makes them others, though as many are left. O(lessons).
///
/// # Errors
/// [`StoreError::Database`].
pub async fn learnt(pool: &PgPool, site: SiteId, count: usize) -> Result<Learnt, StoreError> {
    let first = i64::try_from(count).unwrap_or(i64::MAX);
    let mark = sqlx::query_scalar!(
        "select sum(hashint8extended(id, 0))::text from (
             select id from lesson_that_counts where site_id = $1 order by id
             limit $2 offset $3) as latest",
        site.0,
        first.min(MOST),
        (first - MOST).max(0),
    )
    .fetch_one(pool)
    .await?;
    Ok(Learnt { count, mark })
}

/// The first `count` lessons, the oldest first; of many only the latest.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn all(pool: &PgPool, site: SiteId, count: usize) -> Result<Vec<Lesson>, StoreError> {
    let count = i64::try_from(count).unwrap_or(i64::MAX);
    let rows = sqlx::query!(
        "select kept as \"kept!\", adds as \"adds!\" from (
             select id, kept, adds from lesson_that_counts where site_id = $1 order by id
             limit $2 offset $3) as latest
         order by id",
        site.0,
        count.min(MOST),
        (count - MOST).max(0),
    )
    .fetch_all(pool)
    .await?;
    let lesson = |kept: bool, adds: &[f32]| Some(Lesson { is_kept: kept, adds: adds.try_into().ok()? });
    Ok(rows.iter().filter_map(|row| lesson(row.kept, &row.adds)).collect())
}

/// Forgets all lessons; the decisions themselves stay.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn forget(pool: &PgPool, site: SiteId) -> Result<(), StoreError> {
    let mut tx = pool.begin().await?;
    sqlx::query!("delete from lesson where site_id = $1", site.0).execute(&mut *tx).await?;
    journal::append(&mut *tx, site, &Entry::Site).await?;
    tx.commit().await?;
    Ok(())
}
