//! What is under way, over all sites.

use sqlx::PgPool;

use crate::StoreError;

/// Work that should be under way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct UnderWay {
    pub readings: i64,
    pub releases: i64,
    pub interrupted: i64,
}

/// # Errors
/// [`StoreError::Database`].
pub async fn under_way(pool: &PgPool) -> Result<UnderWay, StoreError> {
    let row = sqlx::query!(
        "select (select count(*) from reading where state in ('waiting', 'running', 'stopping')) as \"readings!\",
                (select count(*) from release where state in ('waiting', 'running', 'taking back')) as \"releases!\",
                (select count(*) from release where state = 'interrupted') as \"interrupted!\"",
    )
    .fetch_one(pool)
    .await?;
    Ok(UnderWay { readings: row.readings, releases: row.releases, interrupted: row.interrupted })
}
