//! Openings that the editor set aside.

use std::collections::HashSet;

use sqlx::{PgConnection, PgPool};
use strelm_core::site::PageId;

use crate::{SiteId, StoreError, number, page_id};

#[derive(Debug, Clone)]
pub struct Passed {
    pub source: PageId,
    pub target: PageId,
    pub anchor: String,
}

/// Sets the openings of a pair of pages aside, or brings them back, inside a transaction. `false` when they were that
/// already.
pub(crate) async fn set(
    tx: &mut PgConnection,
    site: SiteId,
    source: PageId,
    target: PageId,
    anchor: &str,
    is_passed: bool,
) -> Result<bool, StoreError> {
    let changed = if is_passed {
        sqlx::query!(
            "insert into passed_opening (site_id, source_number, target_number, anchor) values ($1, $2, $3, $4)
             on conflict do nothing",
            site.0,
            number(source),
            number(target),
            anchor,
        )
        .execute(&mut *tx)
        .await?
    } else {
        sqlx::query!(
            "delete from passed_opening where site_id = $1 and source_number = $2 and target_number = $3",
            site.0,
            number(source),
            number(target),
        )
        .execute(&mut *tx)
        .await?
    };
    Ok(changed.rows_affected() > 0)
}

/// All that was passed on a site, or only what concerns one page, the latest first.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn all(pool: &PgPool, site: SiteId, page: Option<PageId>) -> Result<Vec<Passed>, StoreError> {
    let rows = sqlx::query!(
        "select source_number, target_number, anchor from passed_opening
         where site_id = $1 and ($2::int is null or source_number = $2 or target_number = $2)
         order by passed_at desc",
        site.0,
        page.map(number),
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|row| Passed {
            source: page_id(row.source_number),
            target: page_id(row.target_number),
            anchor: row.anchor,
        })
        .collect())
}

/// Which of some pairs of pages have their openings set aside; one query for all.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn among(
    pool: &PgPool,
    site: SiteId,
    pairs: &[(PageId, PageId)],
) -> Result<HashSet<(PageId, PageId)>, StoreError> {
    let rows = sqlx::query!(
        "select source_number, target_number from passed_opening
         where site_id = $1 and (source_number, target_number) in (select * from unnest($2::int[], $3::int[]))",
        site.0,
        &pairs.iter().map(|(source, _)| number(*source)).collect::<Vec<_>>(),
        &pairs.iter().map(|(_, target)| number(*target)).collect::<Vec<_>>(),
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|row| (page_id(row.source_number), page_id(row.target_number))).collect())
}
