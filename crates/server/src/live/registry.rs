//! The models of this process: loaded when first asked for, then following the journal.

use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, PoisonError, RwLock, RwLockReadGuard, RwLockWriteGuard};
use std::time::Duration;

use chrono::Utc;
use strelm_core::openings::{Ensemble, EnsembleError};
use strelm_store::{PgPool, SiteId, StoreError, journal, site};
use thiserror::Error;
use tokio::sync::{Mutex, Semaphore};

use super::follow::Delta;
use super::loading::{Load, Loads, Progress, Readiness};
use super::model::Model;
use super::openings::look_at_pages;

#[derive(Debug, Error)]
pub enum LiveError {
    #[error("there is no site with this number")]
    NoSite,
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error(transparent)]
    Load(Arc<LiveError>),
    #[error("the site was on its way into memory when that broke off")]
    BrokenOff,
}

/// One site's model. Readers never wait for the database: what changed is looked up first and put in afterwards.
pub struct LiveSite {
    pub(super) id: SiteId,
    model: RwLock<Model>,
    /// Held by the one who follows the journal, so that entries are put in in order.
    following: Mutex<()>,
    /// When it was last asked for, counted in uses of all models.
    used: AtomicU64,
    /// Whether somebody is looking at pages in the background.
    pub(super) looking: AtomicBool,
}

impl LiveSite {
    pub fn read(&self) -> RwLockReadGuard<'_, Model> {
        self.model.read().unwrap_or_else(PoisonError::into_inner)
    }

    pub(super) fn write(&self) -> RwLockWriteGuard<'_, Model> {
        self.model.write().unwrap_or_else(PoisonError::into_inner)
    }

    /// Brings the model to the end of the journal. Cheap when it is there already. What takes longer to look at is
    /// looked at in the background.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn catch_up(self: &Arc<Self>, pool: &PgPool) -> Result<(), LiveError> {
        self.follow(pool).await?;
        let today = Utc::now().date_naive();
        if self.read().is_of_another_day(today) {
            self.write().follow_day(today);
        }
        look_at_pages(self, pool);
        Ok(())
    }

    async fn follow(&self, pool: &PgPool) -> Result<(), LiveError> {
        let _turn = self.following.lock().await;
        let from = self.read().seq;
        let end = journal::end(pool, self.id).await?.ok_or(LiveError::NoSite)?;
        if end <= from {
            return Ok(());
        }
        match journal::after(pool, self.id, from).await? {
            Some(entries) => {
                let known = self.read().known();
                let delta = Delta::of_entries(pool, self.id, &entries, from, &known).await?;
                delta.apply(&mut self.write());
            }
            // Too far behind: the entries are no longer kept.
            None => {
                let mut model = self.read().emptied();
                Delta::load(pool, self.id, end, &mut model, &Progress::default()).await?;
                *self.write() = model;
            }
        }
        Ok(())
    }
}

/// Sites that are loaded at the same time: a small one need not wait for a large one, and memory is not filled by many.
const LOADED_AT_ONCE: usize = 2;

pub struct LiveSites {
    sites: RwLock<HashMap<SiteId, Arc<LiveSite>>>,
    loads: Arc<Loads>,
    turns: Semaphore,
    uses: AtomicU64,
    most_bytes: usize,
    ensemble: Arc<Ensemble>,
}

impl LiveSites {
    /// Models that together stay below `most_bytes`, but for the one that is in use.
    ///
    /// # Errors
    /// When the judge of openings that was built in cannot be read.
    pub fn new(most_bytes: usize) -> Result<Self, EnsembleError> {
        let (sites, loads, uses) = Default::default();
        let turns = Semaphore::new(LOADED_AT_ONCE);
        Ok(Self { sites, loads, turns, uses, most_bytes, ensemble: Arc::new(Ensemble::shipped()?) })
    }

    /// How many models are in memory, and about how many bytes they take.
    pub fn figures(&self) -> (usize, usize) {
        let sites = self.sites.read().unwrap_or_else(PoisonError::into_inner);
        (sites.len(), sites.values().map(|live| live.read().weight()).sum())
    }

    /// Drops the models that were not used for longest, until the rest is small enough.
    fn make_room(&self, except: SiteId) {
        let mut sites = self.sites.write().unwrap_or_else(PoisonError::into_inner);
        let mut total: usize = sites.values().map(|live| live.read().weight()).sum();
        while total > self.most_bytes {
            let others = sites.iter().filter(|(id, _)| **id != except);
            let Some(oldest) = others.min_by_key(|(_, live)| live.used.load(Ordering::Relaxed)).map(|(id, _)| *id)
            else {
                return;
            };
            if let Some(dropped) = sites.remove(&oldest) {
                total = total.saturating_sub(dropped.read().weight());
            }
        }
    }

    /// The model of a site, at the end of the journal; loaded when it is not in memory yet.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn get(self: &Arc<Self>, pool: &PgPool, id: SiteId) -> Result<Arc<LiveSite>, LiveError> {
        let Some(live) = self.loaded(id) else {
            let live = self.load_of(pool, id).end().await?;
            return live.catch_up(pool).await.map(|()| live);
        };
        live.used.store(self.uses.fetch_add(1, Ordering::Relaxed), Ordering::Relaxed);
        let caught_up = live.catch_up(pool).await;
        if let Err(LiveError::NoSite) = caught_up {
            self.sites.write().unwrap_or_else(PoisonError::into_inner).remove(&id);
        }
        caught_up.map(|()| live)
    }

    /// Whether a site is in memory; if not, it is on its way from now on. Waits a little for small ones, which are there
    /// at once.
    ///
    /// # Errors
    /// [`LiveError`], when it cannot be loaded.
    pub async fn readiness(
        self: &Arc<Self>,
        pool: &PgPool,
        id: SiteId,
        wait: Duration,
    ) -> Result<Readiness, LiveError> {
        if self.loaded(id).is_some() {
            return Ok(Readiness::Ready);
        }
        let load = self.load_of(pool, id);
        match tokio::time::timeout(wait, load.end()).await {
            Ok(ended) => ended.map(|_| Readiness::Ready),
            Err(_) => Ok(load.readiness()),
        }
    }

    fn load_of(self: &Arc<Self>, pool: &PgPool, id: SiteId) -> Arc<Load> {
        let (sites, pool) = (Arc::clone(self), pool.clone());
        self.loads.of(id, move |progress| async move { sites.load(&pool, id, &progress).await })
    }

    async fn load(&self, pool: &PgPool, id: SiteId, progress: &Progress) -> Result<Arc<LiveSite>, LiveError> {
        let site = site::get(pool, id).await?.ok_or(LiveError::NoSite)?;
        let _turn = self.turns.acquire().await.map_err(|_| LiveError::BrokenOff)?;
        // It may have come while this one waited.
        if let Some(live) = self.loaded(id) {
            return Ok(live);
        }
        // The end first: entries that come while the rest is loaded are read again, which does no harm.
        let seq = journal::end(pool, id).await?.ok_or(LiveError::NoSite)?;
        let mut model = Model::new(site.entry, Arc::clone(&self.ensemble));
        Delta::load(pool, id, seq, &mut model, progress).await?;
        let live = Arc::new(LiveSite {
            id,
            model: RwLock::new(model),
            following: Mutex::new(()),
            used: AtomicU64::new(self.uses.fetch_add(1, Ordering::Relaxed)),
            looking: AtomicBool::new(false),
        });
        self.sites.write().unwrap_or_else(PoisonError::into_inner).insert(id, Arc::clone(&live));
        self.make_room(id);
        Ok(live)
    }

    /// The model of a site if it is in memory, as it is.
    pub fn loaded(&self, id: SiteId) -> Option<Arc<LiveSite>> {
        self.sites.read().unwrap_or_else(PoisonError::into_inner).get(&id).cloned()
    }
}
