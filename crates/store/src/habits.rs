//! What the links of a site told of what its authors link.

use sqlx::PgPool;

use crate::journal::{self, Entry};
use crate::{SiteId, StoreError};

/// What was learnt, and from what.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeptHabits {
    /// As `strelm_core::openings::Habits` writes it; `None` where there were too few links.
    pub learnt: Option<String>,
    /// Tells beside which judge.
    pub judge: [u8; 32],
    /// [Links in content](content_links) at that time.
    pub links: u64,
}

/// `None` until something was put.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn get(pool: &PgPool, site: SiteId) -> Result<Option<KeptHabits>, StoreError> {
    let row = sqlx::query!("select learnt, judge, links from habits where site_id = $1", site.0);
    let kept = row.fetch_optional(pool).await?.and_then(|row| {
        let (judge, links) = (row.judge.try_into().ok()?, u64::try_from(row.links).ok()?);
        Some(KeptHabits { learnt: row.learnt, judge, links })
    });
    Ok(kept)
}

/// Keeps what was learnt instead of what was known, and tells the journal.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn put(pool: &PgPool, site: SiteId, habits: &KeptHabits) -> Result<(), StoreError> {
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "insert into habits (site_id, learnt, judge, links) values ($1, $2, $3, $4)
         on conflict (site_id) do update
         set learnt = excluded.learnt, judge = excluded.judge, links = excluded.links",
        site.0,
        habits.learnt,
        habits.judge.as_slice(),
        i64::try_from(habits.links).unwrap_or(i64::MAX),
    )
    .execute(&mut *tx)
    .await?;
    journal::append(&mut *tx, site, &Entry::Site).await?;
    tx.commit().await?;
    Ok(())
}

/// Links in the content of pages that are there. O(links).
///
/// # Errors
/// [`StoreError::Database`].
pub async fn content_links(pool: &PgPool, site: SiteId) -> Result<u64, StoreError> {
    let count = sqlx::query_scalar!(
        "select count(*) as \"count!\" from link
         join page on page.site_id = link.site_id and page.number = link.page_number and page.gone is null
         where link.site_id = $1 and link.region = 'content'",
        site.0,
    );
    Ok(u64::try_from(count.fetch_one(pool).await?).unwrap_or_default())
}
