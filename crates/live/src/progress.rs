//! How far a site is on its way into memory.

use std::sync::atomic::{AtomicUsize, Ordering};

/// How many pages of a site are in memory already.
#[derive(Debug, Default)]
pub struct LoadProgress {
    done: AtomicUsize,
    total: AtomicUsize,
}

impl LoadProgress {
    pub(super) fn begin(&self, total: usize) {
        self.total.store(total, Ordering::Relaxed);
    }

    pub(super) fn add(&self, done: usize) {
        self.done.fetch_add(done, Ordering::Relaxed);
    }

    pub(super) fn done(&self) -> usize {
        self.done.load(Ordering::Relaxed)
    }

    pub(super) fn total(&self) -> usize {
        self.total.load(Ordering::Relaxed)
    }
}
