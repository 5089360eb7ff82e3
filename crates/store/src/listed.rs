//! Pages that an editor listed: read in any case, and with names by which they want to be found.

use sqlx::PgPool;
use strelm_core::site::Address;

use crate::{SiteId, StoreError};

/// A page for which phrases were listed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ListedPage {
    pub address: Address,
    pub names: Vec<String>,
}

/// No name holds this character, by which names are joined on their way to the database.
const BETWEEN: char = '\u{1f}';

/// Adds to the list of a site; of an address that is listed already the names are replaced.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn put_all(pool: &PgPool, site: SiteId, pages: &[ListedPage]) -> Result<(), StoreError> {
    let addresses: Vec<_> = pages.iter().map(|page| page.address.as_str().to_owned()).collect();
    let names: Vec<_> = pages.iter().map(|page| page.names.join(&BETWEEN.to_string())).collect();
    sqlx::query!(
        "insert into listed_page (site_id, address, names)
         select distinct on (address) $1, address, string_to_array(names, $4)
         from unnest($2::text[], $3::text[]) as listed (address, names)
         on conflict (site_id, address) do update set names = excluded.names",
        site.0,
        &addresses,
        &names,
        BETWEEN.to_string(),
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// The list of a site in the order of addresses.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId) -> Result<Vec<ListedPage>, StoreError> {
    let rows = sqlx::query!("select address, names from listed_page where site_id = $1 order by address", site.0);
    let rows = rows.fetch_all(pool).await?.into_iter().map(|row| {
        let address = Address::parse(&row.address);
        let address = address.map_err(|_| StoreError::Unknown { what: "an address", value: row.address })?;
        Ok(ListedPage { address, names: row.names })
    });
    rows.collect()
}
