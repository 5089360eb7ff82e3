//! Readings of a site, the latest first.

use actix_web::{get, web};
use chrono::{DateTime, Utc};
use serde::Serialize;
use strelm_store::SiteId;
use strelm_store::reading::{self, Reading, ReadingState};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};

const MOST_READINGS: i64 = 20;

/// How far a reading is.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReadingPhase {
    Waiting,
    Running,
    Stopping,
    Stopped,
    /// It waits to be told whether what it did not find is taken off.
    Asking,
    Done,
    Failed,
}

/// A reading: how far it is, and what it found.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadingStatus {
    pub reading: i64,
    pub phase: ReadingPhase,
    /// Addresses known so far, read or not.
    pub known: i32,
    /// Addresses dealt with.
    pub done: i32,
    pub pages: i32,
    pub files: i32,
    pub failures: i32,
    /// Of the pages: new ones, and those that changed since the reading before.
    pub fresh: i32,
    pub changed: i32,
    pub vanished: i32,
    pub moved: i32,
    /// Of the failures: what could not be read. What was known of it is kept.
    pub unread: i32,
    pub message: Option<String>,
    pub created_at: DateTime<Utc>,
    pub finished_at: Option<DateTime<Utc>>,
    /// Addresses a second since it last began to run; null when it does not run, or it is too early to tell.
    pub rate: Option<f64>,
    /// Seconds until all addresses known so far are dealt with, at that rate.
    pub seconds_left: Option<i64>,
}

impl ReadingStatus {
    /// At a moment, by which its time left is told.
    pub fn of(reading: Reading, now: DateTime<Utc>) -> Self {
        let progress = reading.progress;
        let done = progress.done();
        let rate = rate(&reading, now);
        let left = f64::from((progress.known - done).max(0));
        Self {
            reading: reading.id.0,
            phase: match reading.state {
                ReadingState::Waiting => ReadingPhase::Waiting,
                ReadingState::Running => ReadingPhase::Running,
                ReadingState::Stopping => ReadingPhase::Stopping,
                ReadingState::Stopped => ReadingPhase::Stopped,
                ReadingState::Asking => ReadingPhase::Asking,
                ReadingState::Done => ReadingPhase::Done,
                ReadingState::Failed => ReadingPhase::Failed,
            },
            known: progress.known,
            done,
            pages: progress.pages,
            files: progress.files,
            failures: progress.failures,
            fresh: progress.fresh,
            changed: progress.changed,
            vanished: progress.vanished,
            moved: progress.moved,
            unread: progress.unread,
            message: reading.message,
            created_at: reading.created_at,
            finished_at: reading.finished_at,
            rate,
            seconds_left: rate.map(|rate| (left / rate).ceil() as i64),
        }
    }
}

/// `None` until there is enough to go by.
fn rate(reading: &Reading, now: DateTime<Utc>) -> Option<f64> {
    let since = reading.run_at.filter(|_| reading.state == ReadingState::Running)?;
    let seconds = (now - since).as_seconds_f64();
    let done = f64::from(reading.progress.done() - reading.run_done);
    (seconds >= 1.0 && done >= 3.0).then(|| done / seconds)
}

/// The latest readings of a site, the newest first.
#[utoipa::path(operation_id = "readings_list", responses((status = 200, body = [ReadingStatus]), (status = 404, body = Problem)))]
#[get("/sites/{site}/readings")]
pub async fn list(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Vec<ReadingStatus>>, ApiError> {
    state.known(*path).await?;
    let readings = reading::all(&state.pool, SiteId(*path), MOST_READINGS).await?;
    let now = Utc::now();
    Ok(web::Json(readings.into_iter().map(|reading| ReadingStatus::of(reading, now)).collect()))
}
