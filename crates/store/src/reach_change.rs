//! What came within reach and what was lost with the latest reading, and by which edit.

use sqlx::PgPool;
use strelm_core::audit::{ReachChange, ReachEdit};

use crate::reading::ReadingId;
use crate::{SiteId, StoreError, number, numbers, page_id};

/// How readers got to pages at the end of a reading, as [`strelm_core::audit::Traces`] writes it.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn traces(pool: &PgPool, site: SiteId) -> Result<Option<(ReadingId, Vec<u8>)>, StoreError> {
    let row = sqlx::query!("select reading_id, traces from reach_trace where site_id = $1", site.0);
    Ok(row.fetch_optional(pool).await?.map(|row| (ReadingId(row.reading_id), row.traces)))
}

/// Keeps how readers get to pages now, and what changed since `before`, unless another did so meanwhile; whether it was kept.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn keep(
    pool: &PgPool,
    site: SiteId,
    reading: ReadingId,
    traces: &[u8],
    before: Option<ReadingId>,
    changes: &[ReachChange],
) -> Result<bool, StoreError> {
    let mut tx = pool.begin().await?;
    let kept = sqlx::query!(
        "insert into reach_trace (site_id, reading_id, traces) values ($1, $2, $3)
         on conflict (site_id) do update set reading_id = excluded.reading_id, traces = excluded.traces
         where reach_trace.reading_id = $4",
        site.0,
        reading.0,
        traces,
        before.map(|before| before.0),
    )
    .execute(&mut *tx)
    .await?;
    if kept.rows_affected() == 0 {
        return Ok(false);
    }
    sqlx::query!("delete from reach_change where site_id = $1", site.0).execute(&mut *tx).await?;
    let pages: Vec<_> = changes.iter().map(|change| change.page).collect();
    let came: Vec<_> = changes.iter().map(|change| change.came).collect();
    let parts: Vec<_> = changes.iter().map(|change| parts_of(change.by)).collect();
    let edits: Vec<_> = parts.iter().map(|(edit, ..)| (*edit).to_owned()).collect();
    let from: Vec<Option<i32>> = parts.iter().map(|(_, from, _)| *from).collect();
    let to: Vec<i32> = parts.iter().map(|(.., to)| *to).collect();
    sqlx::query!(
        "insert into reach_change (site_id, page_number, came, edit, from_page, to_page)
         select $1, * from unnest($2::int[], $3::bool[], $4::text[], $5::int[], $6::int[])",
        site.0,
        &numbers(&pages),
        &came,
        &edits,
        &from as &[Option<i32>],
        &to,
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(true)
}

/// What changed with the latest reading, in the order of pages.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId) -> Result<Vec<ReachChange>, StoreError> {
    let rows = sqlx::query!(
        "select page_number, came, edit, from_page, to_page from reach_change where site_id = $1 order by page_number",
        site.0
    );
    let rows = rows.fetch_all(pool).await?.into_iter().map(|row| {
        let to = page_id(row.to_page);
        let by = match (row.edit.as_str(), row.from_page.map(page_id)) {
            ("link", Some(from)) => ReachEdit::Link { from, to },
            ("redirect", Some(from)) => ReachEdit::Redirect { from, to },
            ("page", _) => ReachEdit::Page(to),
            ("entry", _) => ReachEdit::Entry(to),
            _ => return Err(StoreError::Unknown { what: "an edit", value: row.edit }),
        };
        Ok(ReachChange { page: page_id(row.page_number), came: row.came, by })
    });
    rows.collect()
}

/// The kind of an edit, and the pages that it names.
fn parts_of(edit: ReachEdit) -> (&'static str, Option<i32>, i32) {
    match edit {
        ReachEdit::Link { from, to } => ("link", Some(number(from)), number(to)),
        ReachEdit::Redirect { from, to } => ("redirect", Some(number(from)), number(to)),
        ReachEdit::Page(page) => ("page", None, number(page)),
        ReachEdit::Entry(page) => ("entry", None, number(page)),
    }
}
