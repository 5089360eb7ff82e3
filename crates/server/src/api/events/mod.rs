//! Telling browsers that something changed, whichever process changed it.

pub mod follow;

use std::collections::BTreeSet;
use std::sync::Arc;
use std::time::Duration;

use strelm_store::journal::Growth;
use strelm_store::{PgPool, journal};
use tokio::sync::broadcast;
use tokio::sync::broadcast::error::RecvError;

use strelm_live::LiveSites;

/// A browser that lags behind by more notices than this is told to look at everything.
const MOST_WAITING: usize = 256;

/// Notices of the journal, for any number of listeners.
#[derive(Clone)]
pub struct Events(broadcast::Sender<Notice>);

/// What browsers are told.
#[derive(Debug, Clone, Copy)]
pub enum Notice {
    Grew(Growth),
    /// Notices may have been missed.
    Unsure,
    /// The server is ending; streams end with it.
    Ending,
}

impl Events {
    /// Listens to the database until the process ends; a broken connection is made again.
    pub fn start(pool: PgPool) -> Self {
        let (sender, _) = broadcast::channel(MOST_WAITING);
        let events = Self(sender.clone());
        tokio::spawn(async move {
            loop {
                if let Err(error) = listen(&pool, &sender).await {
                    tracing::warn!(%error, "the journal cannot be followed for the moment");
                }
                let _ = sender.send(Notice::Unsure);
                tokio::time::sleep(Duration::from_secs(1)).await;
            }
        });
        events
    }

    /// Ends all streams.
    pub fn end(&self) {
        let _ = self.0.send(Notice::Ending);
    }

    /// Notices from now on.
    pub fn subscribe(&self) -> broadcast::Receiver<Notice> {
        self.0.subscribe()
    }
}

/// How long notices are gathered before models follow them.
const GATHERED: Duration = Duration::from_millis(500);

/// Lets models in memory follow what happens to their sites, until the process ends.
pub async fn follow_all(events: Events, live: Arc<LiveSites>, pool: PgPool) {
    let mut notices = events.subscribe();
    loop {
        let mut grown = BTreeSet::new();
        match notices.recv().await {
            Ok(Notice::Grew(growth)) => drop(grown.insert(growth.site)),
            // Whoever asks next follows what was missed.
            Ok(Notice::Unsure) | Err(RecvError::Lagged(_)) => {}
            Ok(Notice::Ending) | Err(RecvError::Closed) => return,
        }
        tokio::time::sleep(GATHERED).await;
        while let Ok(notice) = notices.try_recv() {
            match notice {
                Notice::Grew(growth) => drop(grown.insert(growth.site)),
                Notice::Unsure => {}
                Notice::Ending => return,
            }
        }
        live.follow(&pool, grown).await;
    }
}

async fn listen(pool: &PgPool, sender: &broadcast::Sender<Notice>) -> Result<(), strelm_store::StoreError> {
    let mut listener = journal::Listener::start(pool).await?;
    let _ = sender.send(Notice::Unsure);
    loop {
        let notice = listener.next().await?.map_or(Notice::Unsure, Notice::Grew);
        // Nobody listening is no error.
        let _ = sender.send(notice);
    }
}
