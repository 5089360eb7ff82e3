//! What an editor sets for the links of a site.

use sqlx::PgPool;
use strelm_core::limits::{LinkLimits, SiteLimits};

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError};

/// `None` when there is no such site.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn get(pool: &PgPool, site: SiteId) -> Result<Option<SiteLimits>, StoreError> {
    let row = sqlx::query!(
        "select per_sentence, words_per_link, first_words_free, never_words, left_out, links_back, oldest_months,
                follows_habits
         from site where id = $1",
        site.0,
    );
    let count = |number: i32| usize::try_from(number).unwrap_or_default();
    Ok(row.fetch_optional(pool).await?.map(|row| SiteLimits {
        links: LinkLimits {
            per_sentence: count(row.per_sentence),
            words_per_link: count(row.words_per_link),
            first_words_free: count(row.first_words_free),
            ..LinkLimits::default()
        },
        never_words: row.never_words,
        left_out: row.left_out,
        links_back: row.links_back,
        oldest_months: row.oldest_months.and_then(|months| u32::try_from(months).ok()),
        follows_habits: row.follows_habits,
    }))
}

/// Sets them; `None` when there is no such site.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set(pool: &PgPool, site: SiteId, limits: &SiteLimits) -> Result<Option<Seq>, StoreError> {
    let count = |number: usize| i32::try_from(number).unwrap_or(i32::MAX);
    let mut tx = pool.begin().await?;
    let changed = sqlx::query!(
        "update site set per_sentence = $2, words_per_link = $3, first_words_free = $4, never_words = $5,
                         left_out = $6, links_back = $7, oldest_months = $8, follows_habits = $9
         where id = $1",
        site.0,
        count(limits.links.per_sentence),
        count(limits.links.words_per_link),
        count(limits.links.first_words_free),
        &limits.never_words,
        &limits.left_out,
        limits.links_back,
        limits.oldest_months.and_then(|months| i32::try_from(months).ok()),
        limits.follows_habits,
    )
    .execute(&mut *tx)
    .await?;
    if changed.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Site).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
