//! One site in memory, for many who ask and one who changes it.

use std::sync::atomic::{AtomicBool, AtomicI32, AtomicI64, AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, PoisonError, RwLock, RwLockReadGuard, RwLockWriteGuard};

use chrono::Datelike;
use strelm_store::SiteId;
use tokio::sync::{Mutex, Notify};

use super::error::LiveError;
use super::model::Model;

/// A model is weighed anew after so many changes of texts.
const WEIGHED_EVERY: u64 = 500;

/// Of a site with many links seldomer: one change for so many.
const WEIGHED_BY: u64 = 200;

/// For what models are in memory.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Purpose {
    /// To answer whatever editors ask: with all texts, and looked at in the background.
    Editing,
    /// To put links into pages as they pass: without texts, and nothing is looked at.
    Passing,
}

/// Whether somebody is at work on something in the background, and who waits for it.
#[derive(Debug, Default)]
pub(super) struct AtWork {
    pub(super) is_at_work: AtomicBool,
    pub(super) done: Notify,
}

/// One site's model. Readers never wait for the database: what changed is looked up first and put in afterwards. No thread
/// of the server waits for the model or works on it: whoever wants to know something asks.
pub struct LiveSite {
    pub(super) id: SiteId,
    /// What is kept in memory of it, and looked at.
    pub(super) purpose: Purpose,
    model: RwLock<Model>,
    /// How far the model has followed the journal, and about how many bytes it takes.
    pub(super) at: AtomicI64,
    weight: AtomicUsize,
    /// How often texts had changed when it was weighed.
    weighed: AtomicU64,
    /// The day on which pages were last looked at for their age, in days of the common era.
    pub(super) day: AtomicI32,
    /// Whether there may be something to look at in the background.
    pub(super) unsettled: AtomicBool,
    /// Held by the one who follows the journal, so that entries are put in in order.
    pub(super) following: Mutex<()>,
    /// When it was last asked for, counted in uses of all models.
    pub(super) used: AtomicU64,
    /// Whether somebody is looking at pages in the background.
    pub(super) looking: AtomicBool,
    /// Whether there are texts to read, and whether somebody reads them in the background.
    pub(super) lacks_texts: AtomicBool,
    pub(super) reading_texts: Arc<AtomicBool>,
    /// The latest reading that came to its end, and the one after which the reach was compared with before.
    pub(super) latest_done: AtomicI64,
    pub(super) reach_noted: AtomicI64,
    /// For the site as it stands, and with the tray.
    pub(super) sounders: [AtWork; 2],
    /// For the places of rules.
    pub(super) tallier: AtWork,
    /// The reading after which rules took what they take at once.
    pub(super) rules_handled: AtomicI64,
}

impl LiveSite {
    pub(super) fn new(id: SiteId, model: Model, used: u64, purpose: Purpose) -> Self {
        let live = Self {
            id,
            purpose,
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
            latest_done: AtomicI64::new(0),
            reach_noted: AtomicI64::new(0),
            sounders: Default::default(),
            tallier: AtWork::default(),
            rules_handled: AtomicI64::new(0),
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

    /// Looks at the model: on a thread that may wait, and not for long.
    pub fn look<T>(&self, question: impl FnOnce(&Model) -> T) -> T {
        question(&self.read())
    }

    /// Changes the model on a thread of its own.
    pub(super) async fn change(
        self: &Arc<Self>,
        change: impl FnOnce(&mut Model) + Send + 'static,
    ) -> Result<(), LiveError> {
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
        if let Some(latest) = model.latest.filter(|latest| !latest.is_under_way) {
            self.latest_done.store(latest.reading.0, Ordering::Release);
        }
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
    pub(super) fn weight(&self) -> usize {
        self.weight.load(Ordering::Relaxed)
    }

    /// Whether a change broke off half way.
    pub(super) fn is_torn(&self) -> bool {
        self.model.is_poisoned()
    }
}
