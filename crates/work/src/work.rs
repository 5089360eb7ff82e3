//! The worker: takes jobs from the queue until it is told to stop.

use std::panic::AssertUnwindSafe;
use std::time::Duration;

use apalis::prelude::{BackendExt, BoxDynError, Data, Strategy, WorkerBuilder, WorkerBuilderExt};
use apalis_postgres::{Config, PostgresStorage};
use futures::FutureExt;
use strelm_store::lock::{Work, WorkLock};
use strelm_store::reading::{self, ReadingState};
use strelm_store::release::ReleaseState;
use strelm_store::{PgPool, StoreError};

use super::order::{Job, OrderError, QUEUE, order_due, order_overdue};
use super::{JobError, Tools, read_site, release, take_back};
use crate::uploads::Uploads;
use crate::words::sentence;

/// Brings the queue's own tables up to date. Several processes may call it at once.
///
/// # Errors
/// When the database refuses.
pub async fn set_up(pool: &PgPool) -> Result<(), StoreError> {
    PostgresStorage::setup(pool).await.map_err(|error| StoreError::Database(sqlx::Error::Protocol(error.to_string())))
}

/// A worker that runs until its stop signal comes. One whose connection breaks is started anew.
pub struct Worker {
    pub tools: Tools,
    /// Jobs at the same time.
    pub at_once: usize,
    /// How long jobs may take to end when the worker is to stop. What is not done then another worker takes over.
    pub shutdown: Duration,
}

impl Worker {
    /// Works until it is told to stop; then ends what it has begun.
    pub async fn run(self, mut stop: tokio::sync::watch::Receiver<bool>) {
        let sweeping = tokio::spawn(sweep(self.tools.pool.clone(), stop.clone()));
        let tidying = tokio::spawn(tidy(self.tools.clone()));
        while !*stop.borrow() {
            let name = format!("strelm-{}", uuid::Uuid::new_v4());
            // A killed worker's jobs are taken up by another after three missed heartbeats.
            let config = Config::default()
                .queue(QUEUE)
                .batch_size(1)
                .heartbeat_interval(Duration::from_secs(5))
                .missed_heartbeats(3);
            let backend = PostgresStorage::new(&self.tools.pool)
                .with_config(config)
                .with_pubsub()
                .poll_with_strategy(Strategy::new().interval(Duration::from_secs(1)));
            let worker = WorkerBuilder::new(name.as_str())
                .backend(backend)
                .concurrency(self.at_once)
                .data(self.tools.clone())
                .build(perform);
            let mut stopped = stop.clone();
            let signal = async move {
                // An error says that nobody can send any more, which also means to stop.
                let _ = stopped.wait_for(|stop| *stop).await;
                Ok::<(), std::io::Error>(())
            };
            let mut stopped = stop.clone();
            let shutdown = self.shutdown;
            let too_long = async move {
                let _ = stopped.wait_for(|stop| *stop).await;
                tokio::time::sleep(shutdown).await;
            };
            tokio::select! {
                ended = worker.run_until(signal) => if let Err(error) = ended {
                    tracing::warn!(%error, "the worker lost its queue and starts anew");
                    let _ = tokio::time::timeout(Duration::from_secs(1), stop.changed()).await;
                },
                () = too_long => tracing::info!("jobs that are not done are left to other workers"),
            }
        }
        sweeping.abort();
        tidying.abort();
    }
}

/// How often files are looked for that were sent and never used.
const TIDIED_EVERY: Duration = Duration::from_secs(3600);

/// Removes files that were sent long ago and of which no site came. Several workers may do so at once.
async fn tidy(tools: Tools) {
    let uploads = Uploads::new(&tools.folders.uploads, 0, 0);
    loop {
        match Uploads::in_use(&tools.pool).await {
            Ok(used) => {
                let uploads = uploads.clone();
                let _ = tokio::task::spawn_blocking(move || uploads.tidy(&used)).await;
            }
            Err(error) => tracing::warn!(%error, "files that were sent cannot be tidied at the moment"),
        }
        tokio::time::sleep(TIDIED_EVERY).await;
    }
}

/// Now and then looks for work that nobody does any more, and for readings for which it is time.
async fn sweep(pool: PgPool, mut stop: tokio::sync::watch::Receiver<bool>) {
    loop {
        match order_due(&pool).await {
            // Somebody began the same reading in this moment.
            Ok(()) | Err(OrderError::UnderWay) => {}
            Err(error) => tracing::warn!(%error, "readings by schedule cannot be begun at the moment"),
        }
        if let Err(error) = order_overdue(&pool, OVERDUE_AFTER).await {
            tracing::warn!(%error, "work that was left lying cannot be looked for at the moment");
        }
        if tokio::time::timeout(Duration::from_secs(2), stop.wait_for(|stop| *stop)).await.is_ok() {
            return;
        }
    }
}

/// Work is put on the queue again after so many seconds: soon enough for whoever waits, rarely enough for what is only
/// slow.
const OVERDUE_AFTER: f64 = 6.0;

async fn perform(job: Job, tools: Data<Tools>) -> Result<(), BoxDynError> {
    let work = match &job {
        Job::ReadSite { reading, .. } => Work::Reading(reading.0),
        Job::Release { release, .. } | Job::TakeBack { release, .. } => Work::Release(release.0),
    };
    // A job may come twice. The database lets go of the lock when this process or its connection ends.
    let Some(mut lock) = WorkLock::take(&tools.pool, work).await? else { return Ok(()) };
    tracing::info!(?job, "begins");
    let work = async {
        match &job {
            Job::ReadSite { site, reading } => read_site::run(&tools, *site, *reading, &mut lock).await,
            Job::Release { site, release } => release::run(&tools, *site, *release, &mut lock).await,
            Job::TakeBack { site, release } => take_back::run(&tools, *site, *release, &mut lock).await,
        }
    };
    // Work that panics would be taken up again and again.
    let result = AssertUnwindSafe(work).catch_unwind().await;
    let result =
        result.unwrap_or_else(|_| Err(JobError::BrokeOff("an error of Strelm's own; its log tells more".to_owned())));
    match result {
        Ok(()) => tracing::info!(?job, "is done"),
        // Whoever took it over tells how it ends.
        Err(JobError::LockLost) => tracing::warn!(?job, "was taken over"),
        Err(error) => {
            tracing::error!(?job, %error, "broke off");
            break_off(&job, &tools, &error).await?;
        }
    }
    Ok(())
}

/// Leaves what broke off in a state from which there is a way on.
async fn break_off(job: &Job, tools: &Tools, error: &JobError) -> Result<(), JobError> {
    let message = match error {
        // What the database says is for whoever runs Strelm, and stands in the log.
        JobError::Store(_) => {
            "The work broke off, because the database did not keep what it was given. Begin it again; \
                               if that happens once more, whoever runs Strelm finds the reason in its log."
                .to_owned()
        }
        error => sentence(&format!("The work broke off: {error}")),
    };
    match job {
        Job::ReadSite { site, reading } => {
            reading::end_run(&tools.pool, *site, *reading, ReadingState::Failed, Some(&message)).await?;
        }
        Job::Release { site, release } => {
            let state = ReleaseState::Interrupted;
            strelm_store::release::set_state(&tools.pool, *site, *release, state, Some(&message)).await?;
        }
        Job::TakeBack { site, release } => {
            let state = ReleaseState::Out;
            strelm_store::release::set_state(&tools.pool, *site, *release, state, Some(&message)).await?;
        }
    }
    Ok(())
}
