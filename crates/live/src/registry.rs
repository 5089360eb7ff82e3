//! The models of this process: loaded when first asked for, then following the journal.

use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, AtomicI32, AtomicI64, AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, PoisonError, RwLock, RwLockReadGuard, RwLockWriteGuard};
use std::time::Duration;

use chrono::{Datelike, Utc};
use strelm_core::openings::{Ensemble, EnsembleError};
use strelm_core::site::PageId;
use strelm_store::{PgPool, Seq, SiteId, StoreError, furniture, journal, site};
use thiserror::Error;
use tokio::sync::{Mutex, Semaphore};

use super::follow::Delta;
use super::loading::{Load, Loads, Progress, Readiness};
use super::model::Model;
use super::openings::look_at_pages;
use super::text_deltas::text_deltas;
use super::texts::read_texts;

#[derive(Debug, Error)]
pub enum LiveError {
    #[error("there is no site with this number")]
    NoSite,
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error(transparent)]
    Load(Arc<LiveError>),
    #[error("work on the site in memory broke off")]
    BrokenOff,
    /// A change broke off half way.
    #[error("the site in memory was torn while it changed, and is loaded anew")]
    Torn,
}

/// A model is weighed anew after so many changes of texts.
const WEIGHED_EVERY: u64 = 500;

/// Of a site with many links seldomer: one change for so many.
const WEIGHED_BY: u64 = 200;

/// One site's model. Readers never wait for the database: what changed is looked up first and put in afterwards. No thread
/// of the server waits for the model or works on it: whoever wants to know something asks.
pub struct LiveSite {
    pub(super) id: SiteId,
    model: RwLock<Model>,
    /// How far the model has followed the journal, and about how many bytes it takes.
    at: AtomicI64,
    weight: AtomicUsize,
    /// How often texts had changed when it was weighed.
    weighed: AtomicU64,
    /// The day on which pages were last looked at for their age, in days of the common era.
    day: AtomicI32,
    /// Whether there may be something to look at in the background.
    pub(super) unsettled: AtomicBool,
    /// Held by the one who follows the journal, so that entries are put in in order.
    following: Mutex<()>,
    /// When it was last asked for, counted in uses of all models.
    used: AtomicU64,
    /// Whether somebody is looking at pages in the background.
    pub(super) looking: AtomicBool,
    /// Whether there are texts to read, and whether somebody reads them in the background.
    pub(super) lacks_texts: AtomicBool,
    pub(super) reading_texts: Arc<AtomicBool>,
}

impl LiveSite {
    fn new(id: SiteId, model: Model, used: u64) -> Self {
        let live = Self {
            id,
            at: AtomicI64::new(0),
            weight: AtomicUsize::new(model.weight()),
            weighed: AtomicU64::new(model.texts_changed),
            day: AtomicI32::new(0),
            unsettled: AtomicBool::new(true),
            following: Mutex::new(()),
            used: AtomicU64::new(used),
            looking: AtomicBool::new(false),
            lacks_texts: AtomicBool::new(false),
            reading_texts: Arc::default(),
            model: RwLock::new(model),
        };
        live.note_changes(&live.read());
        live
    }

    /// To be called on threads that may wait.
    pub(super) fn read(&self) -> RwLockReadGuard<'_, Model> {
        self.model.read().unwrap_or_else(PoisonError::into_inner)
    }

    /// To be called on threads that may wait. A model that is torn is not asked any more, see [`LiveError::Torn`].
    pub(super) fn write(&self) -> RwLockWriteGuard<'_, Model> {
        self.model.write().unwrap_or_else(PoisonError::into_inner)
    }

    /// Asks the model on a thread of its own.
    ///
    /// # Errors
    /// [`LiveError::BrokenOff`] when the question panics.
    pub async fn ask<T: Send + 'static>(
        self: &Arc<Self>,
        question: impl FnOnce(&Model) -> T + Send + 'static,
    ) -> Result<T, LiveError> {
        let live = Arc::clone(self);
        tokio::task::spawn_blocking(move || question(&live.read())).await.map_err(|_| LiveError::BrokenOff)
    }

    /// Changes the model on a thread of its own.
    async fn change(self: &Arc<Self>, change: impl FnOnce(&mut Model) + Send + 'static) -> Result<(), LiveError> {
        let live = Arc::clone(self);
        let changed = tokio::task::spawn_blocking(move || {
            let mut model = live.write();
            change(&mut model);
            live.note_changes(&model);
        });
        changed.await.map_err(|_| LiveError::Torn)
    }

    pub(super) fn note_changes(&self, model: &Model) {
        self.at.store(model.seq.0, Ordering::Release);
        // Decisions weigh nothing, and few texts weigh little.
        let changed = model.texts_changed.saturating_sub(self.weighed.load(Ordering::Relaxed));
        if changed > WEIGHED_EVERY.max(model.site.link_count() as u64 / WEIGHED_BY) {
            self.weighed.store(model.texts_changed, Ordering::Relaxed);
            self.weight.store(model.weight(), Ordering::Relaxed);
        }
        self.lacks_texts.store(model.texts_waiting() > 0 || model.texts_to_come().is_some(), Ordering::Release);
        self.day.store(model.day().num_days_from_ce(), Ordering::Relaxed);
        self.unsettled.store(true, Ordering::Release);
    }

    /// About how many bytes the model takes.
    fn weight(&self) -> usize {
        self.weight.load(Ordering::Relaxed)
    }

    /// Brings the model to the end of the journal. Cheap when it is there already. What takes longer to look at is
    /// looked at in the background.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn catch_up(self: &Arc<Self>, pool: &PgPool) -> Result<(), LiveError> {
        if self.model.is_poisoned() {
            return Err(LiveError::Torn);
        }
        self.follow(pool).await?;
        let today = Utc::now().date_naive();
        if self.day.load(Ordering::Relaxed) != today.num_days_from_ce() {
            self.change(move |model| model.follow_day(today)).await?;
        }
        read_texts(self, pool);
        look_at_pages(self, pool);
        Ok(())
    }

    /// Reads the texts of some pages now, where they are still to be read: for whoever decides about them.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn read_texts_of(self: &Arc<Self>, pool: &PgPool, pages: Vec<PageId>) -> Result<(), LiveError> {
        let unread = move |model: &Model| -> Vec<_> {
            pages.iter().filter_map(|page| Some((*page, model.language_of_unread(*page)?))).collect()
        };
        let unread = self.ask(unread).await?;
        if unread.is_empty() {
            return Ok(());
        }
        let furniture = Arc::new(furniture::all(pool, self.id).await?);
        let texts = text_deltas(pool, self.id, unread, furniture).await?;
        self.change(move |model| texts.into_iter().for_each(|text| model.put_text(text))).await
    }

    async fn follow(self: &Arc<Self>, pool: &PgPool) -> Result<(), LiveError> {
        let _turn = self.following.lock().await;
        let from = Seq(self.at.load(Ordering::Acquire));
        let end = journal::end(pool, self.id).await?.ok_or(LiveError::NoSite)?;
        if end <= from {
            return Ok(());
        }
        match journal::after(pool, self.id, from).await? {
            Some(entries) => {
                let known = self.ask(Model::known).await?;
                let delta = Delta::of_entries(pool, self.id, &entries, from, &known).await?;
                self.change(move |model| delta.apply(model)).await?;
            }
            // Too far behind: the entries are no longer kept.
            None => {
                let mut fresh = self.ask(Model::emptied).await?;
                Delta::load(pool, self.id, end, &mut fresh, &Progress::default()).await?;
                self.change(move |model| *model = fresh).await?;
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
        let live = Arc::new(LiveSite::new(id, model, self.uses.fetch_add(1, Ordering::Relaxed)));
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
        let live = Arc::new(LiveSite::new(SiteId(1), model, 0));
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
