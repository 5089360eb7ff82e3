//! Pages that are no longer there, and that are there after all.

use sqlx::PgPool;
use strelm_core::site::PageId;

use super::Gone;
use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError, numbers, page_id};

/// Marks pages as gone. Their rows stay, and with them what was decided about them.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn mark_gone(pool: &PgPool, site: SiteId, pages: &[(PageId, Gone)]) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let marked = sqlx::query_scalar!(
        "update page set gone = marks.gone
         from unnest($2::int[], $3::text[]) as marks (number, gone)
         where site_id = $1 and page.number = marks.number and page.gone is distinct from marks.gone
         returning page.number",
        site.0,
        &pages.iter().map(|(page, _)| crate::number(*page)).collect::<Vec<_>>(),
        &pages.iter().map(|(_, gone)| gone.as_str().to_owned()).collect::<Vec<_>>(),
    )
    .fetch_all(&mut *tx)
    .await?;
    if marked.is_empty() {
        return Ok(None);
    }
    let pages = marked.into_iter().map(page_id).collect();
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Says that pages marked as gone are there after all.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn mark_there(pool: &PgPool, site: SiteId, pages: &[PageId]) -> Result<Option<Seq>, StoreError> {
    if pages.is_empty() {
        return Ok(None);
    }
    let mut tx = pool.begin().await?;
    sqlx::query!("update page set gone = null where site_id = $1 and number = any($2)", site.0, &numbers(pages))
        .execute(&mut *tx)
        .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages.to_vec())).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
