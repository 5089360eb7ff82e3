//! What was found on pages when they were looked at for openings, kept for the next start of a server.

use sqlx::PgPool;
use strelm_core::document::ContentHash;
use strelm_core::site::PageId;

use crate::{SiteId, StoreError, numbers, page_id};

/// What was found on a page, and for which version of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LookedPage {
    pub page: PageId,
    /// Of the source that was looked at.
    pub version: ContentHash,
    /// As `strelm_core::openings::kept` writes it.
    pub found: Vec<u8>,
}

/// Keeps what was found on some pages, each given once, instead of what was found before. `judge` tells by what it was
/// judged. Pages that are no longer there are passed over. O(bytes), in one statement.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn put(pool: &PgPool, site: SiteId, judge: &[u8], pages: &[LookedPage]) -> Result<(), StoreError> {
    let which: Vec<PageId> = pages.iter().map(|page| page.page).collect();
    let versions: Vec<_> = pages.iter().map(|page| page.version.as_bytes().to_vec()).collect();
    let found: Vec<_> = pages.iter().map(|page| page.found.clone()).collect();
    sqlx::query!(
        "insert into looked_page (site_id, page_number, version, judge, found)
         select $1, looked.number, looked.version, $2, looked.found
         from unnest($3::int[], $4::bytea[], $5::bytea[]) as looked (number, version, found)
         join page on page.site_id = $1 and page.number = looked.number
         on conflict (site_id, page_number) do update
         set version = excluded.version, judge = excluded.judge, found = excluded.found",
        site.0,
        judge,
        &numbers(&which),
        &versions,
        &found,
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// What was found on some pages by the same judge, in no particular order.
///
/// # Errors
/// [`StoreError`].
pub async fn of(pool: &PgPool, site: SiteId, judge: &[u8], pages: &[PageId]) -> Result<Vec<LookedPage>, StoreError> {
    let rows = sqlx::query!(
        "select page_number, version, found from looked_page
         where site_id = $1 and judge = $2 and page_number = any($3)",
        site.0,
        judge,
        &numbers(pages),
    );
    let rows = rows.fetch_all(pool).await?.into_iter().filter_map(|row| {
        let version = ContentHash::from_bytes(&row.version)?;
        Some(LookedPage { page: page_id(row.page_number), version, found: row.found })
    });
    Ok(rows.collect())
}
