//! Reading the texts of a large site behind what is known of its links: in one sweep, while others ask. A first reading is
//! not followed text by text, since each new phrase would have to be counted on all pages that are there already.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Weak};
use std::time::Duration;

use strelm_core::site::PageId;
use strelm_store::{PgPool, SiteId};
use tokio::runtime::Handle;

use super::error::LiveError;
use super::live_site::LiveSite;
use super::model::{Model, TextDelta, Texts};
use super::openings::look_at_pages;
use super::text_deltas::{each_looked, each_text};
use super::texts_due::{FEW_OF, MOST_IN_READING, are_due};

/// Texts that are read side by side, and that are put in between two turns of others.
const READ_AT_ONCE: usize = 400;
const PUT_AT_ONCE: usize = 50;

/// Pages that are counted, and that get their names, between two turns of others.
const COUNTED_AT_ONCE: usize = 500;
const NAMED_AT_ONCE: usize = 500;

/// How long others have to take the model before it is taken again.
const TURN: Duration = Duration::from_millis(2);

/// Counts are taken so often before nobody may change texts meanwhile.
const MOST_COUNTS: usize = 3;

/// Starts to read texts that are due, unless somebody does so already.
pub fn read_texts(live: &Arc<LiveSite>, pool: &PgPool) {
    if !live.lacks_texts.load(Ordering::Acquire) {
        return;
    }
    let Some(turn) = Turn::take(&live.reading_texts) else { return };
    let sweep = Sweep { live: Arc::downgrade(live), pool: pool.clone(), runtime: Handle::current(), site: live.id };
    tokio::task::spawn_blocking(move || {
        let outcome = sweep.run();
        drop(turn);
        match (outcome, Weak::upgrade(&sweep.live)) {
            (Ok(()), Some(live)) => look_at_pages(&live, &sweep.pool),
            // Whoever asks next starts it anew; nothing but time is lost.
            (Err(error), Some(_)) => tracing::warn!(%error, "the texts of the site cannot be read at the moment"),
            (_, None) => {}
        }
    });
}

/// Held by the one who reads texts, given back whatever happens.
struct Turn(Arc<AtomicBool>);

impl Turn {
    fn take(flag: &Arc<AtomicBool>) -> Option<Self> {
        let is_taken = flag.swap(true, Ordering::AcqRel);
        (!is_taken).then(|| Self(Arc::clone(flag)))
    }
}

impl Drop for Turn {
    fn drop(&mut self) {
        self.0.store(false, Ordering::Release);
    }
}

struct Sweep {
    live: Weak<LiveSite>,
    pool: PgPool,
    runtime: Handle,
    site: SiteId,
}

impl Sweep {
    fn live(&self) -> Result<Arc<LiveSite>, LiveError> {
        // Nobody wants the model any more.
        Weak::upgrade(&self.live).ok_or(LiveError::BrokenOff)
    }

    fn change<T>(&self, change: impl FnOnce(&mut Model) -> T) -> Result<T, LiveError> {
        let live = self.live()?;
        let mut model = live.write();
        let changed = change(&mut model);
        live.note_changes(&model);
        drop(model);
        // Whoever waits for the model gets its turn: the one that let go of it would be the first to take it again.
        std::thread::sleep(TURN);
        Ok(changed)
    }

    /// Reads what is there to read, and counts it. O(bytes of the texts + words of the site).
    fn run(&self) -> Result<(), LiveError> {
        let known = self.live()?.read().texts_known();
        if !are_due(known) {
            return Ok(());
        }
        let texts = self.change(|model| {
            if known.unread > MOST_IN_READING.max(known.read / FEW_OF) {
                model.book.uncount();
                if model.texts == Texts::Whole {
                    model.texts = Texts::Returning;
                }
            }
            model.texts
        })?;
        self.read_all()?;
        while self.change(|model| model.book.name_some(NAMED_AT_ONCE))? {}
        self.change(|model| model.book.settle_languages())?;
        self.count()?;
        if texts == Texts::Loading {
            self.restore()?;
        }
        self.change(|model| {
            model.texts = Texts::Whole;
            model.book.settle();
            model.follow_needs();
            model.settle_openings();
        })
    }

    fn read_all(&self) -> Result<(), LiveError> {
        loop {
            let before = self.live()?.read().texts_known().unread;
            self.read_each_once()?;
            let after = self.live()?.read().texts_known().unread;
            // Pages that changed meanwhile come once more, as long as that leads on.
            if after == 0 || after >= before {
                return Ok(());
            }
        }
    }

    fn read_each_once(&self) -> Result<(), LiveError> {
        let mut last: Option<PageId> = None;
        let next = || {
            let some = self.live()?.read().unread_after(last, READ_AT_ONCE);
            last = some.last().map(|(page, _)| *page).or(last);
            Ok(some)
        };
        let put = |texts: Vec<TextDelta>| {
            let mut texts = texts.into_iter().peekable();
            while texts.peek().is_some() {
                let some: Vec<_> = texts.by_ref().take(PUT_AT_ONCE).collect();
                self.change(|model| some.into_iter().for_each(|text| model.put_text(text)))?;
            }
            Ok(())
        };
        self.runtime.block_on(each_text(&self.pool, self.site, next, put))
    }

    /// Counts phrases on all pages while others read the model.
    fn count(&self) -> Result<(), LiveError> {
        for _ in 0..MOST_COUNTS {
            let live = self.live()?;
            let (counts, pages) = {
                let model = live.read();
                if model.book.is_counted() {
                    return Ok(());
                }
                (model.book.counts(), model.book.pages_with_prose().collect::<Vec<_>>())
            };
            for some in pages.chunks(COUNTED_AT_ONCE) {
                live.read().book.count_into(&counts, some);
                std::thread::sleep(TURN);
            }
            if self.change(|model| model.book.put_counts(&counts))? {
                return Ok(());
            }
        }
        self.change(|model| model.book.settle())
    }

    /// Brings back what was found in an earlier run, after all pages have their names.
    fn restore(&self) -> Result<(), LiveError> {
        let (judge, pages) = {
            let live = self.live()?;
            let model = live.read();
            (model.judge_mark(), model.versions.keys().copied().collect())
        };
        let put = |looked| self.change(|model| model.restore(looked));
        self.runtime.block_on(each_looked(&self.pool, self.site, judge, pages, put))
    }
}
