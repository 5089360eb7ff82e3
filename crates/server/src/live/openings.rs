//! Looking at the pages of a site for openings, in the background: a few at a time, so that nobody waits for long.

use std::sync::atomic::Ordering;
use std::sync::{Arc, Weak};

use rayon::iter::{IntoParallelIterator, ParallelIterator};

use super::registry::LiveSite;

/// Pages that are looked at between two changes of the model.
const AT_ONCE: usize = 64;

/// Starts to look at what is not known yet, unless somebody does so already.
pub fn look_at_pages(live: &Arc<LiveSite>) {
    if live.read().openings_settled() || live.looking.swap(true, Ordering::AcqRel) {
        return;
    }
    let live = Arc::downgrade(live);
    tokio::task::spawn_blocking(move || {
        while let Some(live) = Weak::upgrade(&live) {
            if !look_at_some(&live) {
                live.looking.store(false, Ordering::Release);
                // Something may have changed between the two.
                if live.read().openings_settled() || live.looking.swap(true, Ordering::AcqRel) {
                    return;
                }
            }
        }
    });
}

/// `false` when nothing was left to do.
fn look_at_some(live: &LiveSite) -> bool {
    let (found, seen) = {
        let model = live.read();
        let (pages, seen) = model.stale(AT_ONCE);
        let found: Vec<_> = pages.into_par_iter().map(|page| (page, model.candidates(page))).collect();
        (found, seen)
    };
    let mut model = live.write();
    // What changed meanwhile is looked at again.
    if model.texts_changed == seen {
        model.put_candidates(found);
    }
    model.settle_openings();
    model.kept = super::list::Kept::default();
    !model.openings_settled()
}
