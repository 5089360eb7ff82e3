//! Looking at the pages of a site for openings, in the background: a few at a time, so that nobody waits for long.

use std::collections::BTreeMap;
use std::sync::atomic::Ordering;
use std::sync::{Arc, Weak};
use std::time::{Duration, Instant};

use strelm_core::site::PageId;
use strelm_store::looked::{self, LookedPage};
use strelm_store::{PgPool, SiteId};
use tokio::runtime::Handle;

use super::live_site::LiveSite;

/// Pages that are looked at between two changes of the model.
const AT_ONCE: usize = 64;

/// What is known is judged again when no text changed for so long.
const QUIET: Duration = Duration::from_secs(2);

/// Pages of which is kept in one go what was found on them.
const KEPT_AT_ONCE: usize = 512;

/// How long others have to take the model before it is taken again.
const TURN: Duration = Duration::from_millis(2);

/// While pages are still to be looked at, counts are brought up to date so seldom: each page that is looked at changes
/// those of all to which it could lead, which on a large site would be counted again and again.
const COUNTED_EVERY: Duration = Duration::from_secs(5);

/// Starts to look at what is not known yet, unless somebody does so already. What is found is kept for the next start.
pub fn look_at_pages(live: &Arc<LiveSite>, pool: &PgPool) {
    if !live.unsettled.load(Ordering::Acquire) || live.looking.swap(true, Ordering::AcqRel) {
        return;
    }
    let (runtime, pool, site) = (Handle::current(), pool.clone(), live.id);
    let live = Arc::downgrade(live);
    tokio::task::spawn_blocking(move || {
        let Some(judge) = Weak::upgrade(&live).map(|live| live.read().judge_mark()) else { return };
        let mut keeper = FoundKeeper { runtime, pool, site, judge, waiting: BTreeMap::new() };
        let mut seen = None;
        let mut counted = Instant::now();
        while let Some(live) = Weak::upgrade(&live) {
            if !live.read().is_whole() {
                // Whoever reads the texts that are missing starts it anew.
                keeper.keep();
                live.looking.store(false, Ordering::Release);
                return;
            }
            let changed = live.read().texts_changed;
            if live.read().openings_known() && seen != Some(changed) {
                seen = Some(wait_for_quiet(&live, changed));
            }
            if !look_at_some(&live, &mut keeper, &mut counted) {
                keeper.keep();
                live.unsettled.store(false, Ordering::Release);
                live.looking.store(false, Ordering::Release);
                // Something may have changed between the two.
                if is_done(&live) || live.looking.swap(true, Ordering::AcqRel) {
                    return;
                }
            }
        }
    });
}

/// Whether all pages were looked at and counted, and what was found is kept.
fn is_done(live: &LiveSite) -> bool {
    let model = live.read();
    model.openings_settled() && model.to_keep.is_empty()
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
fn look_at_some(live: &LiveSite, keeper: &mut FoundKeeper, counted: &mut Instant) -> bool {
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
    if model.openings_known() || counted.elapsed() > COUNTED_EVERY {
        model.settle_openings();
        *counted = Instant::now();
    }
    if keeper.judge != model.judge_mark() {
        keeper.judge = model.judge_mark();
        keeper.waiting.clear();
    }
    keeper.add(std::mem::take(&mut model.to_keep));
    let is_settled = model.openings_settled();
    drop(model);
    // Whoever waits for the model gets its turn: the one that let go of it would be the first to take it again.
    std::thread::sleep(TURN);
    if keeper.waiting.len() >= KEPT_AT_ONCE {
        keeper.keep();
    }
    !is_settled
}

/// Keeps in the database what was found, so that a server that starts anew need not look again.
struct FoundKeeper {
    runtime: Handle,
    pool: PgPool,
    site: SiteId,
    judge: [u8; 32],
    /// Each page once: one that was looked at again meanwhile is kept as it was found at last.
    waiting: BTreeMap<PageId, LookedPage>,
}

impl FoundKeeper {
    fn add(&mut self, found: Vec<LookedPage>) {
        self.waiting.extend(found.into_iter().map(|looked| (looked.page, looked)));
    }

    fn keep(&mut self) {
        if self.waiting.is_empty() {
            return;
        }
        let found: Vec<LookedPage> = self.waiting.values().cloned().collect();
        match self.runtime.block_on(looked::put(&self.pool, self.site, &self.judge, &found)) {
            Ok(()) => self.waiting.clear(),
            // Nothing is lost by it but time, now or at the next start: it is tried again with what is found next.
            Err(error) => tracing::warn!(%error, "what was found on pages cannot be kept at the moment"),
        }
    }
}
