//! The models of this process: loaded when first asked for, then following the journal.

use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, PoisonError, RwLock, RwLockReadGuard, RwLockWriteGuard};

use strelm_core::openings::{Ensemble, EnsembleError};
use strelm_store::{PgPool, SiteId, StoreError, journal, site};
use thiserror::Error;
use tokio::sync::Mutex;

use super::follow::Delta;
use super::model::Model;
use super::openings::look_at_pages;

#[derive(Debug, Error)]
pub enum LiveError {
    #[error("there is no site with this number")]
    NoSite,
    #[error(transparent)]
    Store(#[from] StoreError),
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
                let learnt_from = self.read().learnt_from;
                let delta = Delta::of_entries(pool, self.id, &entries, from, learnt_from).await?;
                delta.apply(&mut self.write());
            }
            // Too far behind: the entries are no longer kept.
            None => {
                let mut model = self.read().emptied();
                Delta::load(pool, self.id, end, &mut model).await?;
                *self.write() = model;
            }
        }
        Ok(())
    }
}

pub struct LiveSites {
    sites: RwLock<HashMap<SiteId, Arc<LiveSite>>>,
    loading: Mutex<()>,
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
        let (sites, loading, uses) = Default::default();
        Ok(Self { sites, loading, uses, most_bytes, ensemble: Arc::new(Ensemble::shipped()?) })
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
    pub async fn get(&self, pool: &PgPool, id: SiteId) -> Result<Arc<LiveSite>, LiveError> {
        if let Some(live) = self.loaded(id) {
            live.used.store(self.uses.fetch_add(1, Ordering::Relaxed), Ordering::Relaxed);
            let caught_up = live.catch_up(pool).await;
            if let Err(LiveError::NoSite) = caught_up {
                self.sites.write().unwrap_or_else(PoisonError::into_inner).remove(&id);
            }
            return caught_up.map(|()| live);
        }
        let _turn = self.loading.lock().await;
        if let Some(live) = self.loaded(id) {
            return Ok(live);
        }
        let site = site::get(pool, id).await?.ok_or(LiveError::NoSite)?;
        // The end first: entries that come while the rest is loaded are read again, which does no harm.
        let seq = journal::end(pool, id).await?.ok_or(LiveError::NoSite)?;
        let mut model = Model::new(site.entry, Arc::clone(&self.ensemble));
        Delta::load(pool, id, seq, &mut model).await?;
        let live = Arc::new(LiveSite {
            id,
            model: RwLock::new(model),
            following: Mutex::new(()),
            used: AtomicU64::new(self.uses.fetch_add(1, Ordering::Relaxed)),
            looking: AtomicBool::new(false),
        });
        self.sites.write().unwrap_or_else(PoisonError::into_inner).insert(id, Arc::clone(&live));
        self.make_room(id);
        live.catch_up(pool).await?;
        Ok(live)
    }

    /// The model of a site if it is in memory, as it is.
    pub fn loaded(&self, id: SiteId) -> Option<Arc<LiveSite>> {
        self.sites.read().unwrap_or_else(PoisonError::into_inner).get(&id).cloned()
    }
}
