//! Readings of a site, under way and past.

use chrono::{DateTime, Utc};
use sqlx::PgPool;

use super::facts::{Progress, Reading, ReadingId, ReadingState};
use crate::{SiteId, StoreError};

struct ReadingRow {
    id: i64,
    state: String,
    known: i32,
    pages: i32,
    files: i32,
    failures: i32,
    others: i32,
    fresh: i32,
    changed: i32,
    vanished: i32,
    moved: i32,
    unread: i32,
    message: Option<String>,
    created_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    run_at: Option<DateTime<Utc>>,
    run_done: i32,
}

impl ReadingRow {
    fn into_reading(self) -> Result<Reading, StoreError> {
        Ok(Reading {
            id: ReadingId(self.id),
            state: ReadingState::parse(&self.state)?,
            progress: Progress {
                known: self.known,
                pages: self.pages,
                files: self.files,
                failures: self.failures,
                others: self.others,
                fresh: self.fresh,
                changed: self.changed,
                vanished: self.vanished,
                moved: self.moved,
                unread: self.unread,
            },
            message: self.message,
            created_at: self.created_at,
            finished_at: self.finished_at,
            run_at: self.run_at,
            run_done: self.run_done,
        })
    }
}

/// Readings of a site, the latest first.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId, most: i64) -> Result<Vec<Reading>, StoreError> {
    let rows = sqlx::query_as!(
        ReadingRow,
        "select id, state, known, pages, files, failures, others, fresh, changed, vanished, moved, unread, message, created_at,
                finished_at, run_at, run_done
         from reading where site_id = $1 order by id desc limit $2",
        site.0,
        most,
    );
    rows.fetch_all(pool).await?.into_iter().map(ReadingRow::into_reading).collect()
}

/// The latest reading of a site.
///
/// # Errors
/// [`StoreError`].
pub async fn latest(pool: &PgPool, site: SiteId) -> Result<Option<Reading>, StoreError> {
    Ok(all(pool, site, 1).await?.pop())
}
