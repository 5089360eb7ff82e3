//! The models of this process: loaded when first asked for, then following the journal.

use std::collections::HashMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, PoisonError, RwLock};
use std::time::Duration;

use strelm_core::openings::{Ensemble, EnsembleError};
use strelm_store::{PgPool, SiteId, journal, site};
use tokio::sync::Semaphore;

use super::error::LiveError;
use super::follow::Delta;
use super::live_site::{LiveSite, Purpose};
use super::loading::{Load, Loads, Readiness};
use super::model::Model;
use super::progress::LoadProgress;

/// Sites that are loaded at the same time: a small one need not wait for a large one, and memory is not filled by many.
const LOADED_AT_ONCE: usize = 2;

/// The models of all sites that were asked for.
pub struct LiveSites {
    sites: RwLock<HashMap<SiteId, Arc<LiveSite>>>,
    loads: Arc<Loads>,
    turns: Semaphore,
    uses: AtomicU64,
    most_bytes: usize,
    purpose: Purpose,
    ensemble: Arc<Ensemble>,
}

impl LiveSites {
    /// Models that together stay below `most_bytes`, but for the one that is in use.
    ///
    /// # Errors
    /// When the judge of openings that was built in cannot be read.
    pub fn new(most_bytes: usize, purpose: Purpose) -> Result<Self, EnsembleError> {
        let (sites, loads, uses) = Default::default();
        let turns = Semaphore::new(LOADED_AT_ONCE);
        Ok(Self { sites, loads, turns, uses, most_bytes, purpose, ensemble: Arc::new(Ensemble::shipped()?) })
    }

    /// How many models are in memory, and about how many bytes they take.
    pub fn figures(&self) -> (usize, usize) {
        let sites = self.sites.read().unwrap_or_else(PoisonError::into_inner);
        (sites.len(), sites.values().map(|live| live.weight()).sum())
    }

    /// Drops the models that were not used for longest, until the rest is small enough.
    fn make_room(&self, except: SiteId) {
        let mut sites = self.sites.write().unwrap_or_else(PoisonError::into_inner);
        let mut total: usize = sites.values().map(|live| live.weight()).sum();
        while total > self.most_bytes {
            let others = sites.iter().filter(|(id, _)| **id != except);
            let Some(oldest) = others.min_by_key(|(_, live)| live.used.load(Ordering::Relaxed)).map(|(id, _)| *id)
            else {
                return;
            };
            if let Some(dropped) = sites.remove(&oldest) {
                total = total.saturating_sub(dropped.weight());
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
        match caught_up {
            Ok(()) => Ok(live),
            // Half of a change is in it: what it says may be wrong. The database knows better.
            Err(LiveError::Torn) => {
                self.forget(&live);
                let live = self.load_of(pool, id).end().await?;
                live.catch_up(pool).await.map(|()| live)
            }
            Err(error) => {
                if matches!(error, LiveError::NoSite) {
                    self.forget(&live);
                }
                Err(error)
            }
        }
    }

    /// Drops a model, unless another took its place.
    fn forget(&self, live: &Arc<LiveSite>) {
        let mut sites = self.sites.write().unwrap_or_else(PoisonError::into_inner);
        if sites.get(&live.id).is_some_and(|known| Arc::ptr_eq(known, live)) {
            sites.remove(&live.id);
        }
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

    async fn load(&self, pool: &PgPool, id: SiteId, progress: &LoadProgress) -> Result<Arc<LiveSite>, LiveError> {
        let site = site::get(pool, id).await?.ok_or(LiveError::NoSite)?;
        let _turn = self.turns.acquire().await.map_err(|_| LiveError::BrokenOff)?;
        // It may have come while this one waited.
        if let Some(live) = self.loaded(id) {
            return Ok(live);
        }
        // The end first: entries that come while the rest is loaded are read again, which does no harm.
        let seq = journal::end(pool, id).await?.ok_or(LiveError::NoSite)?;
        let mut model = Model::new(site.entry, Arc::clone(&self.ensemble));
        Delta::load(pool, id, seq, &mut model, self.purpose, progress).await?;
        let live = Arc::new(LiveSite::new(id, model, self.uses.fetch_add(1, Ordering::Relaxed), self.purpose));
        self.sites.write().unwrap_or_else(PoisonError::into_inner).insert(id, Arc::clone(&live));
        self.make_room(id);
        Ok(live)
    }

    /// Brings models in memory up to what a journal says, though nobody asks: who asks next waits for nothing. To be called
    /// by one task, for sites of which a notice came.
    pub async fn follow(&self, pool: &PgPool, sites: impl IntoIterator<Item = SiteId>) {
        for live in sites.into_iter().filter_map(|id| self.loaded(id)) {
            // Whoever asks is told what is wrong.
            let _ = live.catch_up(pool).await;
        }
    }

    /// The model of a site if it is in memory, as it is.
    pub fn loaded(&self, id: SiteId) -> Option<Arc<LiveSite>> {
        self.sites.read().unwrap_or_else(PoisonError::into_inner).get(&id).cloned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use strelm_core::site::Address;

    #[tokio::test]
    async fn a_model_that_a_panic_tore_is_asked_no_more_and_a_question_that_panics_tears_nothing() {
        let ensemble = Arc::new(Ensemble::shipped().unwrap());
        let model = Model::new(Address::parse("http://sky.example/").unwrap(), ensemble);
        let live = Arc::new(LiveSite::new(SiteId(1), model, 0, Purpose::Editing));
        let asked = live.ask(|_| -> usize { panic!("a question of this test") }).await;
        assert!(matches!(asked, Err(LiveError::BrokenOff)));
        assert_eq!(live.ask(|model| model.site.pages().count()).await.unwrap(), 0);
        let changed = live.change(|_| panic!("a change of this test")).await;
        assert!(matches!(changed, Err(LiveError::Torn)));
        // Whoever comes next is told before the database is asked.
        let nowhere = PgPool::connect_lazy("postgres://nobody@127.0.0.1:1/nothing").unwrap();
        assert!(matches!(live.catch_up(&nowhere).await, Err(LiveError::Torn)));
    }
}
