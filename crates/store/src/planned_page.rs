//! Pages that are to come, to which links can be planned already.

use sqlx::{PgConnection, PgPool};
use strelm_core::site::{Address, ChangeId, PlannedPageId};

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError, rule};

/// A page that is to come.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlannedPage {
    pub id: PlannedPageId,
    /// Where it is to be.
    pub address: Address,
    pub title: String,
}

/// Notes a page that is to come; one at the same address gets this title.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn put(
    pool: &PgPool,
    site: SiteId,
    address: &Address,
    title: &str,
) -> Result<(PlannedPageId, Seq), StoreError> {
    let mut tx = pool.begin().await?;
    let id = sqlx::query_scalar!(
        "insert into planned_page (site_id, address, title) values ($1, $2, $3)
         on conflict (site_id, address) do update set title = excluded.title returning id",
        site.0,
        address.as_str(),
        title,
    )
    .fetch_one(&mut *tx)
    .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Site).await?;
    tx.commit().await?;
    Ok((PlannedPageId(id), seq))
}

/// All of a site, in the order in which they were planned.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId) -> Result<Vec<PlannedPage>, StoreError> {
    let rows = sqlx::query!("select id, address, title from planned_page where site_id = $1 order by id", site.0);
    let planned = rows.fetch_all(pool).await?.into_iter().map(|row| {
        let address = Address::parse(&row.address)
            .map_err(|_| StoreError::Unknown { what: "an address", value: row.address.clone() })?;
        Ok(PlannedPage { id: PlannedPageId(row.id), address, title: row.title })
    });
    planned.collect()
}

/// Links to planned pages that are there now lead to those pages, inside a transaction; gives the links. Two statements for
/// any number of pages.
pub(crate) async fn arrive(
    tx: &mut PgConnection,
    site: SiteId,
    addresses: &[String],
) -> Result<Vec<ChangeId>, StoreError> {
    let changes = sqlx::query_scalar!(
        "update taken_link set target_kind = 'page', target_number = page.number, target_planned = null
         from planned_page, page
         where taken_link.target_planned = planned_page.id and planned_page.site_id = $1
           and planned_page.address = any($2) and page.site_id = $1 and page.address = planned_page.address
           and page.gone is null and page.number <> source_number
         returning taken_link.id",
        site.0,
        addresses,
    )
    .fetch_all(&mut *tx)
    .await?;
    rule::arrive(tx, site, addresses).await?;
    sqlx::query!(
        "delete from planned_page where site_id = $1 and address = any($2)
         and not exists (select from taken_link where target_planned = planned_page.id)
         and not exists (select from link_rule where target_planned = planned_page.id)",
        site.0,
        addresses,
    )
    .execute(tx)
    .await?;
    Ok(changes.into_iter().map(ChangeId).collect())
}
