//! The addresses of a reading: those that wait, and what became of the others.

use std::collections::HashMap;

use sqlx::PgPool;
use strelm_core::site::{Address, PageId};

use super::facts::{Outcome, ReadAddress, ReadingId};
use crate::{SiteId, StoreError, page_id};

/// Addresses of a reading so far: those that wait, in the order in which they were found, and those that are done.
///
/// # Errors
/// [`StoreError`].
pub async fn addresses(pool: &PgPool, reading: ReadingId) -> Result<(Vec<Address>, Vec<Address>), StoreError> {
    let rows = sqlx::query!(
        "select address, outcome is null as \"waits!\" from reading_address where reading_id = $1 order by ordinal",
        reading.0,
    )
    .fetch_all(pool)
    .await?;
    let (mut waiting, mut done) = (Vec::new(), Vec::new());
    for row in rows {
        let address = Address::parse(&row.address)
            .map_err(|_| StoreError::Unknown { what: "an address", value: row.address.clone() })?;
        if row.waits { waiting.push(address) } else { done.push(address) }
    }
    Ok((waiting, done))
}

/// Adds addresses that wait. Those that are known already stay as they are.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn add_waiting(pool: &PgPool, reading: ReadingId, addresses: &[Address]) -> Result<(), StoreError> {
    let addresses: Vec<_> = addresses.iter().map(|address| address.as_str().to_owned()).collect();
    sqlx::query!(
        "insert into reading_address (reading_id, address) select $1, * from unnest($2::text[]) on conflict do nothing",
        reading.0,
        &addresses,
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// Notes what became of addresses.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_outcomes(pool: &PgPool, reading: ReadingId, outcomes: &[ReadAddress]) -> Result<(), StoreError> {
    // One statement cannot change a row twice: the last word counts.
    let last: HashMap<&str, &ReadAddress> = outcomes.iter().map(|read| (read.address.as_str(), read)).collect();
    let column = |value: fn(&ReadAddress) -> String| last.values().map(|read| value(read)).collect::<Vec<_>>();
    let notes: Vec<_> = last.values().map(|read| read.note.clone()).collect();
    sqlx::query!(
        "insert into reading_address (reading_id, address, outcome, note)
         select $1, * from unnest($2::text[], $3::text[], $4::text[])
         on conflict (reading_id, address) do update set outcome = excluded.outcome, note = excluded.note",
        reading.0,
        &column(|read| read.address.as_str().to_owned()),
        &column(|read| read.outcome.as_str().to_owned()),
        &notes as &[Option<String>],
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// Addresses of a reading with one of some outcomes, in the order in which they were found.
///
/// # Errors
/// [`StoreError`].
pub async fn told(
    pool: &PgPool,
    site: SiteId,
    reading: ReadingId,
    outcomes: &[Outcome],
    most: i64,
) -> Result<Vec<ReadAddress>, StoreError> {
    let words: Vec<_> = outcomes.iter().map(|outcome| outcome.as_str().to_owned()).collect();
    let rows = sqlx::query!(
        "select address, outcome as \"outcome!\", note from reading_address
         join reading on reading.id = reading_id
         where reading_id = $1 and site_id = $2 and outcome = any($3) order by ordinal limit $4",
        reading.0,
        site.0,
        &words,
        most,
    )
    .fetch_all(pool)
    .await?;
    let read = |(address, word, note): (String, String, Option<String>)| {
        let outcome = Outcome::ALL.into_iter().find(|outcome| outcome.as_str() == word);
        Ok(ReadAddress {
            address: Address::parse(&address)
                .map_err(|_| StoreError::Unknown { what: "an address", value: address.clone() })?,
            outcome: outcome.ok_or(StoreError::Unknown { what: "an outcome", value: word })?,
            note,
        })
    };
    rows.into_iter().map(|row| read((row.address, row.outcome, row.note))).collect()
}

/// The pages that a reading found new or changed.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn touched_pages(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<Vec<PageId>, StoreError> {
    let numbers = sqlx::query_scalar!(
        "select page.number from reading_address join page using (address)
         where reading_id = $2 and outcome in ('new', 'changed') and page.site_id = $1 and page.gone is null
         order by page.number",
        site.0,
        reading.0,
    );
    Ok(numbers.fetch_all(pool).await?.into_iter().map(page_id).collect())
}
