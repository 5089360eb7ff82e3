//! Readings of a site, under way and past.

use chrono::{DateTime, Utc};
use sqlx::{PgConnection, PgPool};

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError};

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct ReadingId(pub i64);

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReadingState {
    Waiting,
    Running,
    Done,
    Failed,
}

impl ReadingState {
    pub const ALL: [Self; 4] = [Self::Waiting, Self::Running, Self::Done, Self::Failed];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Waiting => "waiting",
            Self::Running => "running",
            Self::Done => "done",
            Self::Failed => "failed",
        }
    }
}

/// How far a reading has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Progress {
    /// Addresses known so far, read or not.
    pub known: i32,
    pub pages: i32,
    pub files: i32,
    pub failures: i32,
}

#[derive(Debug, Clone)]
pub struct Reading {
    pub id: ReadingId,
    pub state: ReadingState,
    pub progress: Progress,
    /// Why it failed, or what to know about it.
    pub message: Option<String>,
    pub created_at: DateTime<Utc>,
    pub finished_at: Option<DateTime<Utc>>,
}

/// Begins a reading inside a transaction; a conflict says that one is under way already.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn begin(tx: &mut PgConnection, site: SiteId) -> Result<(ReadingId, Seq), StoreError> {
    let id = sqlx::query_scalar!("insert into reading (site_id) values ($1) returning id", site.0)
        .fetch_one(&mut *tx)
        .await?;
    let seq = journal::append(tx, site, &Entry::Reading).await?;
    Ok((ReadingId(id), seq))
}

/// Marks a reading as running, or as done or failed for good.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set_state(
    pool: &PgPool,
    site: SiteId,
    reading: ReadingId,
    state: ReadingState,
    message: Option<&str>,
) -> Result<Seq, StoreError> {
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "update reading set state = $2, message = $3,
                            finished_at = case when $2 in ('done', 'failed') then now() end
         where id = $1",
        reading.0,
        state.as_str(),
        message,
    )
    .execute(&mut *tx)
    .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    Ok(seq)
}

/// # Errors
/// [`StoreError::Database`].
pub async fn set_progress(
    pool: &PgPool,
    site: SiteId,
    reading: ReadingId,
    progress: Progress,
) -> Result<Seq, StoreError> {
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "update reading set known = $2, pages = $3, files = $4, failures = $5 where id = $1",
        reading.0,
        progress.known,
        progress.pages,
        progress.files,
        progress.failures,
    )
    .execute(&mut *tx)
    .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    Ok(seq)
}

/// The latest reading of a site.
///
/// # Errors
/// [`StoreError`].
pub async fn latest(pool: &PgPool, site: SiteId) -> Result<Option<Reading>, StoreError> {
    let row = sqlx::query!(
        "select id, state, known, pages, files, failures, message, created_at, finished_at
         from reading where site_id = $1 order by id desc limit 1",
        site.0,
    )
    .fetch_optional(pool)
    .await?;
    let Some(row) = row else { return Ok(None) };
    let state = ReadingState::ALL.into_iter().find(|state| state.as_str() == row.state);
    let progress = Progress { known: row.known, pages: row.pages, files: row.files, failures: row.failures };
    Ok(Some(Reading {
        id: ReadingId(row.id),
        state: state.ok_or(StoreError::Unknown { what: "a state of a reading", value: row.state })?,
        progress,
        message: row.message,
        created_at: row.created_at,
        finished_at: row.finished_at,
    }))
}
