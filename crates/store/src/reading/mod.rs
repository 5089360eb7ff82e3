//! Readings of a site: how each begins, goes on and ends.

mod addresses;
mod facts;
mod leaving;
mod list;

use sqlx::{PgConnection, PgPool};

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError};

pub use self::addresses::{add_waiting, addresses, note_outcomes, told, touched_pages};
pub use self::facts::{Outcome, Progress, ReadAddress, Reading, ReadingId, ReadingState};
pub use self::leaving::{Left, answer_keep, answer_take_off, leaving, may_take_off, note_leaving, note_staying};
pub use self::list::{all, latest};

/// Begins a reading inside a transaction; a conflict says that one is under way already.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn begin(tx: &mut PgConnection, site: SiteId) -> Result<(ReadingId, Seq), StoreError> {
    let id = sqlx::query_scalar!("insert into reading (site_id) values ($1) returning id", site.0)
        .fetch_one(&mut *tx)
        .await?;
    // Nobody answers an older question any more.
    sqlx::query!(
        "update reading set state = 'done', finished_at = now() where site_id = $1 and id < $2 and state = 'asking'",
        site.0,
        id,
    )
    .execute(&mut *tx)
    .await?;
    // One that was stopped half way is not gone on with any more; details are kept of the last few.
    sqlx::query!(
        "delete from reading_address where reading_id in
            (select id from reading where site_id = $1 and id < $2 and state <> 'done')
         or reading_id in (select id from reading where site_id = $1 order by id desc offset 5)",
        site.0,
        id,
    )
    .execute(&mut *tx)
    .await?;
    let seq = journal::append(tx, site, &Entry::Reading).await?;
    Ok((ReadingId(id), seq))
}

/// Orders the latest reading to go on, inside a transaction, if it was stopped or broke off. A conflict says that
/// another is under way.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn go_on(tx: &mut PgConnection, site: SiteId) -> Result<Option<(ReadingId, Seq)>, StoreError> {
    let id = sqlx::query_scalar!(
        "update reading set state = 'waiting', message = null, finished_at = null, queued_at = now()
         where id = (select max(id) from reading where site_id = $1) and state in ('stopped', 'failed') returning id",
        site.0,
    )
    .fetch_optional(&mut *tx)
    .await?;
    let Some(id) = id else { return Ok(None) };
    let seq = journal::append(tx, site, &Entry::Reading).await?;
    Ok(Some((ReadingId(id), seq)))
}

/// Asks the reading that is under way to stop; `None` when there is none.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn ask_to_stop(pool: &PgPool, site: SiteId) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let asked = sqlx::query!(
        "update reading set state = case when state = 'waiting' then 'stopped' else 'stopping' end
         where site_id = $1 and state in ('waiting', 'running')",
        site.0,
    )
    .execute(&mut *tx)
    .await?;
    if asked.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Marks a reading as running; `None` when it is not to run: it is done, or was stopped before it began.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn start_run(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<Option<Progress>, StoreError> {
    let mut tx = pool.begin().await?;
    let row = sqlx::query!(
        "update reading set state = 'running', message = null, run_at = now(), run_done = pages + files + failures + others
         where id = $1 and state in ('waiting', 'running')
         returning known, pages, files, failures, others, fresh, changed, vanished, moved, unread",
        reading.0,
    )
    .fetch_optional(&mut *tx)
    .await?;
    let Some(row) = row else { return Ok(None) };
    journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    Ok(Some(Progress {
        known: row.known,
        pages: row.pages,
        files: row.files,
        failures: row.failures,
        others: row.others,
        fresh: row.fresh,
        changed: row.changed,
        vanished: row.vanished,
        moved: row.moved,
        unread: row.unread,
    }))
}

/// Marks a reading as stopped, done or failed.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn end_run(
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
    if state == ReadingState::Done {
        // What nobody asks for again.
        sqlx::query!(
            "delete from reading_address where reading_id = $1 and (outcome is null or outcome in
                ('unchanged', 'file', 'redirect'))",
            reading.0,
        )
        .execute(&mut *tx)
        .await?;
    }
    let seq = journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Notes how far a reading has come, which also shows that somebody works on it, and gives the state in which it is by
/// now.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set_progress(
    pool: &PgPool,
    site: SiteId,
    reading: ReadingId,
    progress: Progress,
    message: Option<&str>,
) -> Result<ReadingState, StoreError> {
    let mut tx = pool.begin().await?;
    let state = sqlx::query_scalar!(
        "update reading set known = $2, pages = $3, files = $4, failures = $5, fresh = $6, changed = $7,
                            vanished = $8, moved = $9, message = $10, others = $11, unread = $12,
                            queued_at = now()
         where id = $1 returning state",
        reading.0,
        progress.known,
        progress.pages,
        progress.files,
        progress.failures,
        progress.fresh,
        progress.changed,
        progress.vanished,
        progress.moved,
        message,
        progress.others,
        progress.unread,
    )
    .fetch_one(&mut *tx)
    .await?;
    journal::append(&mut *tx, site, &Entry::Reading).await?;
    tx.commit().await?;
    ReadingState::parse(&state)
}

/// Readings that should be under way and were last put on the queue some seconds ago; they are marked as put there
/// now. Whoever asks puts them on the queue: a second job for the same reading finds the work taken and ends.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn overdue(tx: &mut PgConnection, seconds: f64) -> Result<Vec<(SiteId, ReadingId)>, StoreError> {
    let rows = sqlx::query!(
        "update reading set queued_at = now()
         where state in ('waiting', 'running', 'stopping') and queued_at < now() - make_interval(secs => $1)
         returning site_id, id",
        seconds,
    )
    .fetch_all(tx)
    .await?;
    Ok(rows.into_iter().map(|row| (SiteId(row.site_id), ReadingId(row.id))).collect())
}

/// Sites that are to be read again by themselves and whose latest reading began long enough ago, none of them under way.
/// Their rows are locked until the transaction ends, so that of several workers one begins the reading.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn due(tx: &mut PgConnection) -> Result<Vec<SiteId>, StoreError> {
    let rows = sqlx::query_scalar!(
        "select id from site
         where read_every is not null
           and not exists (select from reading where site_id = site.id
                           and (state in ('waiting', 'running', 'stopping')
                                or created_at > now() - ('1 ' || site.read_every)::interval))
         for update skip locked"
    );
    Ok(rows.fetch_all(tx).await?.into_iter().map(SiteId).collect())
}
