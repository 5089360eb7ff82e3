//! Pages that a reading no longer found, until it is decided whether they are taken off the site.

use sqlx::PgPool;
use strelm_core::site::{Absence, Address, PageId};

use super::ReadingId;
use crate::journal::{self, Entry};
use crate::redirect::status_of;
use crate::{Seq, SiteId, StoreError, number, page_id};

/// Why a page is no longer there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Left {
    Absent(Absence),
    Moved(Address),
}

/// Notes pages that were not found. Those that were noted before are noted anew.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_leaving(pool: &PgPool, reading: ReadingId, leaving: &[(PageId, Left)]) -> Result<(), StoreError> {
    let status = |left: &Left| match left {
        Left::Absent(absence) => status_of(*absence),
        Left::Moved(_) => None,
    };
    let to = |left: &Left| match left {
        Left::Absent(_) => None,
        Left::Moved(to) => Some(to.as_str().to_owned()),
    };
    sqlx::query!(
        "insert into reading_leaving (reading_id, page_number, status, moved_to)
         select distinct on (2) $1::bigint, * from unnest($2::int[], $3::smallint[], $4::text[])
         on conflict (reading_id, page_number) do update set status = excluded.status, moved_to = excluded.moved_to",
        reading.0,
        &leaving.iter().map(|(page, _)| number(*page)).collect::<Vec<_>>(),
        &leaving.iter().map(|(_, left)| status(left)).collect::<Vec<_>>() as &[Option<i16>],
        &leaving.iter().map(|(_, left)| to(left)).collect::<Vec<_>>() as &[Option<String>],
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// Takes note that pages are there after all.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_staying(pool: &PgPool, reading: ReadingId, pages: &[PageId]) -> Result<(), StoreError> {
    let pages: Vec<_> = pages.iter().map(|page| number(*page)).collect();
    sqlx::query!("delete from reading_leaving where reading_id = $1 and page_number = any($2)", reading.0, &pages)
        .execute(pool)
        .await?;
    Ok(())
}

/// Pages that were not found, by their numbers.
///
/// # Errors
/// [`StoreError`].
pub async fn leaving(pool: &PgPool, reading: ReadingId) -> Result<Vec<(PageId, Left)>, StoreError> {
    let rows = sqlx::query!(
        "select page_number, status, moved_to from reading_leaving where reading_id = $1 order by page_number",
        reading.0,
    );
    let left = |status: Option<i16>, to: Option<String>| match to {
        Some(to) => {
            let address = Address::parse(&to);
            address.map(Left::Moved).map_err(|_| StoreError::Unknown { what: "an address", value: to })
        }
        None => Ok(Left::Absent(status.map_or(Absence::Draft, Absence::Status))),
    };
    let rows = rows.fetch_all(pool).await?.into_iter();
    rows.map(|row| Ok((page_id(row.page_number), left(row.status, row.moved_to)?))).collect()
}

/// Whether an editor said that the pages that a reading did not find may be taken off.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn may_take_off(pool: &PgPool, reading: ReadingId) -> Result<bool, StoreError> {
    let said = sqlx::query_scalar!("select may_take_off from reading where id = $1", reading.0);
    Ok(said.fetch_optional(pool).await?.unwrap_or_default())
}

/// Orders the latest reading to end by taking off what it did not find, inside a transaction; `None` when it does not ask.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn answer_take_off(
    tx: &mut sqlx::PgConnection,
    site: SiteId,
    reading: ReadingId,
) -> Result<Option<Seq>, StoreError> {
    let ordered = sqlx::query!(
        "update reading set state = 'waiting', may_take_off = true, message = null, queued_at = now()
         where site_id = $1 and id = $2 and state = 'asking'",
        site.0,
        reading.0,
    )
    .execute(&mut *tx)
    .await?;
    if ordered.rows_affected() == 0 {
        return Ok(None);
    }
    Ok(Some(journal::append(tx, site, &Entry::Reading).await?))
}

/// Ends a reading that asks, and keeps all pages; `None` when it does not ask.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn answer_keep(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let ended = sqlx::query!(
        "update reading set state = 'done', finished_at = now(),
                            message = 'Pages that it did not find are kept, as was decided.'
         where site_id = $1 and id = $2 and state = 'asking'",
        site.0,
        reading.0,
    )
    .execute(&mut *tx)
    .await?;
    if ended.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
