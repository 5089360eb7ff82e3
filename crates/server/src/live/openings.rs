//! Looking at the pages of a site for openings, in the background: a few at a time, so that nobody waits for long.

use std::sync::atomic::Ordering;
use std::sync::{Arc, Weak};
use std::time::{Duration, Instant};

use super::registry::LiveSite;

/// Pages that are looked at between two changes of the model.
const AT_ONCE: usize = 64;

/// What is known is judged again when no text changed for so long.
const QUIET: Duration = Duration::from_secs(2);

/// Starts to look at what is not known yet, unless somebody does so already.
pub fn look_at_pages(live: &Arc<LiveSite>) {
    if live.read().openings_settled() || live.looking.swap(true, Ordering::AcqRel) {
        return;
    }
    let live = Arc::downgrade(live);
    tokio::task::spawn_blocking(move || {
        let mut seen = None;
        while let Some(live) = Weak::upgrade(&live) {
            let changed = live.read().texts_changed;
            if live.read().openings_known() && seen != Some(changed) {
                seen = Some(wait_for_quiet(&live, changed));
            }
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

/// While texts change all the time, as in a reading, judging again what is known would never end. Gives how often they
/// had changed at last.
fn wait_for_quiet(live: &LiveSite, mut seen: u64) -> u64 {
    loop {
        let before = Instant::now();
        while before.elapsed() < QUIET && live.read().openings_known() {
            std::thread::sleep(Duration::from_millis(100));
        }
        let model = live.read();
        if model.texts_changed == seen || !model.openings_known() {
            return model.texts_changed;
        }
        seen = model.texts_changed;
    }
}

/// `false` when nothing was left to do.
fn look_at_some(live: &LiveSite) -> bool {
    let (found, seen) = {
        let model = live.read();
        let (pages, seen) = model.waiting(AT_ONCE);
        (model.look_at(pages), seen)
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
