//! What holds for all rules of a site together.

use sqlx::PgPool;
use sqlx::types::Json;
use strelm_core::rules::RuleLimits;

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError};

/// What holds for all rules of a site; what is so at first where nobody set anything.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn limits(pool: &PgPool, site: SiteId) -> Result<RuleLimits, StoreError> {
    let limits =
        sqlx::query_scalar!("select rule_limits as \"limits: Json<RuleLimits>\" from site where id = $1", site.0);
    Ok(limits.fetch_optional(pool).await?.flatten().map_or_else(RuleLimits::default, |limits| limits.0))
}

/// Sets it; `None` when there is no such site.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set_limits(pool: &PgPool, site: SiteId, limits: &RuleLimits) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let set = sqlx::query!("update site set rule_limits = $2 where id = $1", site.0, Json(limits) as _);
    if set.execute(&mut *tx).await?.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Rules).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
