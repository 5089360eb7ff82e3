//! What rules link at once, and after which reading they did.

use std::collections::BTreeSet;

use sqlx::PgPool;
use strelm_core::rules::{Handling, RuleId};

use crate::reading::ReadingId;
use crate::{SiteId, StoreError, rule_id};

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

/// Rules that link at once what a reading found: they are on, and were what they are when it began.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn at_once_after(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<BTreeSet<RuleId>, StoreError> {
    let rules = sqlx::query_scalar!(
        "select number from link_rule
         where site_id = $1 and is_on and removed_at is null and handling = $2 and coalesce(read_before, 0) < $3",
        site.0,
        Handling::AtOnce.as_str(),
        reading.0,
    );
    Ok(rules.fetch_all(pool).await?.into_iter().map(rule_id).collect())
}
