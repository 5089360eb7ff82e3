//! Addresses of a site that send on to others.

use sqlx::PgPool;
use strelm_core::site::Address;

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError};

/// # Errors
/// [`StoreError::Database`].
pub async fn put_all(pool: &PgPool, site: SiteId, redirects: &[(Address, Address)]) -> Result<Option<Seq>, StoreError> {
    if redirects.is_empty() {
        return Ok(None);
    }
    let mut tx = pool.begin().await?;
    let from: Vec<_> = redirects.iter().map(|(from, _)| from.as_str().to_owned()).collect();
    let to: Vec<_> = redirects.iter().map(|(_, to)| to.as_str().to_owned()).collect();
    sqlx::query!(
        "insert into redirect (site_id, from_address, to_address)
         select distinct on (2) $1::int, * from unnest($2::text[], $3::text[])
         on conflict (site_id, from_address) do update set to_address = excluded.to_address",
        site.0,
        &from,
        &to,
    )
    .execute(&mut *tx)
    .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Redirects).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId) -> Result<Vec<(Address, Address)>, StoreError> {
    let rows = sqlx::query!("select from_address, to_address from redirect where site_id = $1", site.0);
    let address =
        |text: String| Address::parse(&text).map_err(|_| StoreError::Unknown { what: "an address", value: text });
    let rows = rows.fetch_all(pool).await?;
    rows.into_iter().map(|row| Ok((address(row.from_address)?, address(row.to_address)?))).collect()
}
