//! The worker: takes jobs from the queue until it is told to stop.

use std::time::Duration;

use apalis::prelude::{BackendExt, BoxDynError, Data, Strategy, WorkerBuilder, WorkerBuilderExt};
use apalis_postgres::{Config, PostgresStorage};
use strelm_store::reading::{self, ReadingState};
use strelm_store::release::ReleaseState;
use strelm_store::{PgPool, StoreError};

use super::order::{Job, QUEUE};
use super::{JobError, Tools, read_site, release, take_back};

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
}

impl Worker {
    pub async fn run(self, mut stop: tokio::sync::watch::Receiver<bool>) {
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
            if let Err(error) = worker.run_until(signal).await {
                tracing::warn!(%error, "the worker lost its queue and starts anew");
                let _ = tokio::time::timeout(Duration::from_secs(1), stop.changed()).await;
            }
        }
    }
}

async fn perform(job: Job, tools: Data<Tools>) -> Result<(), BoxDynError> {
    tracing::info!(?job, "begins");
    let result = match &job {
        Job::ReadSite { site, reading } => read_site::run(&tools, *site, *reading).await,
        Job::Release { site, release } => release::run(&tools, *site, *release).await,
        Job::TakeBack { site, release } => take_back::run(&tools, *site, *release).await,
    };
    let Err(error) = result else {
        tracing::info!(?job, "is done");
        return Ok(());
    };
    tracing::error!(?job, %error, "broke off");
    // The editor is told and can order it again. When not even that can be written, the queue tries again later.
    Ok(break_off(&job, &tools, &error).await?)
}

/// Leaves what broke off in a state from which there is a way on.
async fn break_off(job: &Job, tools: &Tools, error: &JobError) -> Result<(), JobError> {
    let message = format!("The work broke off: {error}. Order it again.");
    match job {
        Job::ReadSite { site, reading } => {
            reading::set_state(&tools.pool, *site, *reading, ReadingState::Failed, Some(&message)).await?;
        }
        Job::Release { site, release: id } => release::break_off(tools, *site, *id, &message).await?,
        Job::TakeBack { site, release } => {
            strelm_store::release::set_state(&tools.pool, *site, *release, ReleaseState::Out).await?;
        }
    }
    Ok(())
}
