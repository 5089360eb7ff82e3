//! Addresses of a site at which there is no page: those that send on to others, and those at which there is nothing.

use sqlx::PgPool;
use strelm_core::site::{Absence, Address};

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

/// Notes addresses at which there is nothing, with the reason, and addresses at which there is something
/// after all. Neither sends on any more.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn put_dead(
    pool: &PgPool,
    site: SiteId,
    dead: &[(Address, Absence)],
    alive: &[Address],
) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let gone: Vec<_> = dead.iter().map(|(address, _)| address.as_str().to_owned()).collect();
    let here: Vec<_> = alive.iter().map(|address| address.as_str().to_owned()).collect();
    let statuses: Vec<_> = dead.iter().map(|(_, why)| status_of(*why)).collect();
    let put = sqlx::query!(
        "insert into dead_address (site_id, address, status)
         select distinct on (2) $1::int, * from unnest($2::text[], $3::smallint[])
         on conflict (site_id, address) do update set status = excluded.status
             where dead_address.status is distinct from excluded.status",
        site.0,
        &gone,
        &statuses as &[Option<i16>],
    )
    .execute(&mut *tx)
    .await?;
    let risen = sqlx::query!("delete from dead_address where site_id = $1 and address = any($2)", site.0, &here)
        .execute(&mut *tx)
        .await?;
    let ended = sqlx::query!(
        "delete from redirect where site_id = $1 and (from_address = any($2) or from_address = any($3))",
        site.0,
        &gone,
        &here,
    )
    .execute(&mut *tx)
    .await?;
    if put.rows_affected() + risen.rows_affected() + ended.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Redirects).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

pub(crate) const fn status_of(absence: Absence) -> Option<i16> {
    match absence {
        Absence::Status(status) => Some(status),
        Absence::Draft => None,
    }
}

/// Addresses at which there is nothing, and why.
///
/// # Errors
/// [`StoreError`].
pub async fn dead(pool: &PgPool, site: SiteId) -> Result<Vec<(Address, Absence)>, StoreError> {
    let rows = sqlx::query!("select address, status from dead_address where site_id = $1", site.0);
    let address =
        |text: String| Address::parse(&text).map_err(|_| StoreError::Unknown { what: "an address", value: text });
    rows.fetch_all(pool)
        .await?
        .into_iter()
        .map(|row| Ok((address(row.address)?, row.status.map_or(Absence::Draft, Absence::Status))))
        .collect()
}
