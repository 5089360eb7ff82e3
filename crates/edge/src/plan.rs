//! What is known of a page before it passes.

use std::hash::Hasher;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use strelm_core::passing::PassingEdit;
use strelm_core::site::{Address, PageId};
use strelm_live::PassingMark;

/// A plan is worked out anew after so long, while it still holds.
const HOLDS: Duration = Duration::from_secs(60);

/// What comes to a page as it passes.
#[derive(Debug)]
pub struct Plan {
    pub page: Option<PageId>,
    pub edit: Arc<PassingEdit>,
    /// The pages to which rules lead from here, where a reader who came from one is not led back.
    pub back: Vec<Address>,
    /// Tells what is put into the page; `None` when nothing is.
    pub tag: Option<String>,
    /// Of what it depends, and at which change of the site that was looked at last.
    pub mark: PassingMark,
    seen: AtomicU64,
    /// Whether it was worked out of the page as it passed.
    pub is_learnt: bool,
    /// Whether it is for readers alone who come from a page to which this one would lead back.
    pub is_for_referrer: bool,
    made_at: Instant,
    /// The page as it passed last and was found to be as it is known.
    fits: AtomicU64,
}

impl Plan {
    pub fn of(page: Option<PageId>, edit: PassingEdit, back: Vec<Address>, mark: PassingMark, change: u64) -> Self {
        let tag = (!edit.is_empty()).then(|| format!("{:016x}", edit.hash()));
        Self {
            page,
            edit: Arc::new(edit),
            back,
            tag,
            mark,
            seen: AtomicU64::new(change),
            is_learnt: false,
            is_for_referrer: false,
            made_at: Instant::now(),
            fits: AtomicU64::new(0),
        }
    }

    /// Whether nothing of the site changed since it was looked at.
    pub fn is_of(&self, change: u64) -> bool {
        self.seen.load(Ordering::Relaxed) == change
    }

    pub fn see(&self, change: u64) {
        self.seen.store(change, Ordering::Relaxed);
    }

    /// Whether pages and links around the page may have changed where its links lead.
    pub fn is_old(&self) -> bool {
        self.made_at.elapsed() > HOLDS
    }

    /// Whether it need not be worked out anew out of what was read. One that was learnt is learnt anew when its page passes.
    pub fn still_holds(&self) -> bool {
        self.is_learnt || !self.is_old()
    }

    /// Whether a page as it passed, by its hash, is known to be as it should, and the plan is not old.
    pub fn fits(&self, page: u64) -> bool {
        self.fits.load(Ordering::Relaxed) == page && !self.is_old()
    }

    pub fn note_fit(&self, page: u64) {
        self.fits.store(page, Ordering::Relaxed);
    }

    /// About how many bytes it takes.
    pub fn weight(&self) -> u32 {
        u32::try_from(self.edit.weight() + 200).unwrap_or(u32::MAX)
    }
}

/// A hash of a page as it passed, by which it is known to be the same as before. O(n).
pub fn hash_of(page: &[u8]) -> u64 {
    let mut hasher = rustc_hash::FxHasher::default();
    hasher.write(page);
    hasher.finish()
}
