//! Ordering work: the row that describes it and the job on the queue are written together or not at all.

use apalis::prelude::TaskBuilder;
use serde::{Deserialize, Serialize};
use strelm_store::reading::{self, ReadingId};
use strelm_store::release::{self, ReleaseId};
use strelm_store::site::Way;
use strelm_store::{PgPool, Seq, SiteId, StoreError};
use thiserror::Error;

/// Name of the queue that all workers share.
pub const QUEUE: &str = "strelm";

/// A job on the queue, by the row that describes it.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Job {
    ReadSite { site: SiteId, reading: ReadingId },
    Release { site: SiteId, release: ReleaseId },
    TakeBack { site: SiteId, release: ReleaseId },
}

/// Why a job cannot be ordered.
#[derive(Debug, Error)]
pub enum OrderError {
    #[error(transparent)]
    Store(StoreError),
    #[error("the job cannot be put on the queue: {0}")]
    Queue(String),
    #[error("the same kind of work is under way for this site")]
    UnderWay,
    #[error("there is nothing to do")]
    Nothing,
}

impl From<StoreError> for OrderError {
    fn from(error: StoreError) -> Self {
        if error.is_conflict() { Self::UnderWay } else { Self::Store(error) }
    }
}

impl From<sqlx::Error> for OrderError {
    fn from(error: sqlx::Error) -> Self {
        Self::from(StoreError::from(error))
    }
}

/// # Errors
/// [`OrderError::UnderWay`] when the site is being read already.
pub async fn order_reading(pool: &PgPool, site: SiteId) -> Result<(ReadingId, Seq), OrderError> {
    let mut tx = pool.begin().await?;
    let (reading, seq) = reading::begin(&mut tx, site).await?;
    enqueue(&mut tx, &Job::ReadSite { site, reading }).await?;
    tx.commit().await?;
    Ok((reading, seq))
}

/// # Errors
/// [`OrderError::Nothing`] when the tray is empty, [`OrderError::UnderWay`] when another release is under way.
pub async fn order_release(pool: &PgPool, site: SiteId, way: Way) -> Result<(ReleaseId, Seq), OrderError> {
    let mut tx = pool.begin().await?;
    let (release, seq) = release::begin(&mut tx, site, way).await?.ok_or(OrderError::Nothing)?;
    enqueue(&mut tx, &Job::Release { site, release }).await?;
    tx.commit().await?;
    Ok((release, seq))
}

/// # Errors
/// [`OrderError::Nothing`] when nothing of the release is out, [`OrderError::UnderWay`] when another one is under way.
pub async fn order_taking_back(pool: &PgPool, site: SiteId, release: ReleaseId) -> Result<Seq, OrderError> {
    let mut tx = pool.begin().await?;
    let seq = release::begin_taking_back(&mut tx, site, release).await?.ok_or(OrderError::Nothing)?;
    enqueue(&mut tx, &Job::TakeBack { site, release }).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Orders the latest reading to go on where it stopped or broke off.
///
/// # Errors
/// [`OrderError::Nothing`] when it is done or under way.
pub async fn order_reading_to_go_on(pool: &PgPool, site: SiteId) -> Result<Seq, OrderError> {
    let mut tx = pool.begin().await?;
    let (reading, seq) = reading::go_on(&mut tx, site).await?.ok_or(OrderError::Nothing)?;
    enqueue(&mut tx, &Job::ReadSite { site, reading }).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Orders a reading that asks to end by taking off what it did not find.
///
/// # Errors
/// [`OrderError::Nothing`] when it does not ask.
pub async fn order_taking_off(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<Seq, OrderError> {
    let mut tx = pool.begin().await?;
    let seq = reading::answer_take_off(&mut tx, site, reading).await?.ok_or(OrderError::Nothing)?;
    enqueue(&mut tx, &Job::ReadSite { site, reading }).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Orders an interrupted release to go on.
///
/// # Errors
/// [`OrderError::Nothing`] when it is not interrupted.
pub async fn order_going_on(pool: &PgPool, site: SiteId, release: ReleaseId) -> Result<Seq, OrderError> {
    let mut tx = pool.begin().await?;
    let seq = release::go_on(&mut tx, site, release).await?.ok_or(OrderError::Nothing)?;
    enqueue(&mut tx, &Job::Release { site, release }).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Puts work on the queue that should be under way and is not, because a worker died or the queue gave up on it. Work
/// that another worker has is only found to be taken.
///
/// # Errors
/// [`OrderError`] when the database refuses.
pub(super) async fn order_overdue(pool: &PgPool, seconds: f64) -> Result<(), OrderError> {
    let mut tx = pool.begin().await?;
    let readings = reading::overdue(&mut tx, seconds).await?;
    let releases = release::overdue(&mut tx, seconds).await?;
    let readings = readings.into_iter().map(|(site, reading)| Job::ReadSite { site, reading });
    let releases = releases.into_iter().map(|(site, release, back)| match back {
        true => Job::TakeBack { site, release },
        false => Job::Release { site, release },
    });
    for job in readings.chain(releases) {
        enqueue(&mut tx, &job).await?;
    }
    tx.commit().await?;
    Ok(())
}

/// Begins the readings for which it is time.
///
/// # Errors
/// [`OrderError`] when the database refuses.
pub(super) async fn order_due(pool: &PgPool) -> Result<(), OrderError> {
    let mut tx = pool.begin().await?;
    for site in reading::due(&mut tx).await? {
        let (reading, _) = reading::begin(&mut tx, site).await?;
        enqueue(&mut tx, &Job::ReadSite { site, reading }).await?;
    }
    tx.commit().await?;
    Ok(())
}

async fn enqueue(tx: &mut sqlx::PgConnection, job: &Job) -> Result<(), OrderError> {
    let bytes = serde_json::to_vec(job).map_err(|error| OrderError::Queue(error.to_string()))?;
    let task = TaskBuilder::new(bytes).max_attempts(5).build();
    apalis_postgres::queries::push_tasks(tx, QUEUE, vec![task]).await.map_err(|e| OrderError::Queue(e.to_string()))
}
