//! After which reading rules took what they link at once.

use sqlx::PgPool;

use crate::reading::ReadingId;
use crate::{SiteId, StoreError};

/// The latest reading after which rules took what they link at once.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn taken_after(pool: &PgPool, site: SiteId) -> Result<Option<ReadingId>, StoreError> {
    let after = sqlx::query_scalar!("select rules_after from site where id = $1", site.0).fetch_optional(pool).await?;
    Ok(after.flatten().map(ReadingId))
}

/// Notes that they did after this one.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_taken_after(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<(), StoreError> {
    sqlx::query!("update site set rules_after = $2 where id = $1", site.0, reading.0).execute(pool).await?;
    Ok(())
}
