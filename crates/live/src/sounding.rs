//! What is worked out of a site's graph as a whole, in the background: nobody holds the model meanwhile.

use std::sync::atomic::Ordering;
use std::sync::{Arc, Weak};
use std::time::{Duration, Instant};

use strelm_core::reach::Soundings;
use strelm_core::site::Moment;

use super::answers::Sounded;
use super::error::LiveError;
use super::live_site::{AtWork, LiveSite};

/// After it took so long, it rests so many times as long before it is done again; at most for so long.
const RESTS: u32 = 3;
const LONGEST_REST: Duration = Duration::from_secs(10);

impl LiveSite {
    /// The soundings of a moment. Stale ones are worked out again in the background, for which the answer waits so long at
    /// most.
    ///
    /// # Errors
    /// [`LiveError::BrokenOff`].
    pub async fn soundings(self: &Arc<Self>, moment: Moment, wait: Duration) -> Result<Sounded, LiveError> {
        let (moment, known) = self.ask(move |model| (model.moment(moment), model.sounded(moment))).await?;
        if known.is_fresh {
            return Ok(known);
        }
        // Asked for before the work begins, so that its end is not missed.
        let done = self.sounder(moment).done.notified();
        self.sound(moment);
        let _ = tokio::time::timeout(wait, done).await;
        self.ask(move |model| model.sounded(moment)).await
    }

    fn sounder(&self, moment: Moment) -> &AtWork {
        match moment {
            Moment::Now => &self.sounders[0],
            Moment::WithTray => &self.sounders[1],
        }
    }

    /// Works out stale soundings, unless somebody does so already. O(pages + links) and [`Soundings::of`].
    pub(super) fn sound(self: &Arc<Self>, moment: Moment) {
        if self.sounder(moment).is_at_work.swap(true, Ordering::AcqRel) {
            return;
        }
        let live = Arc::downgrade(self);
        tokio::spawn(async move {
            let begun = Instant::now();
            let of_site = Weak::clone(&live);
            let work = move || {
                if let Some(live) = of_site.upgrade() {
                    live.sound_now(moment);
                }
            };
            if let Err(error) = tokio::task::spawn_blocking(work).await {
                tracing::error!(%error, "the reach of a site cannot be worked out");
            }
            if let Some(live) = live.upgrade() {
                live.sounder(moment).done.notify_waiters();
            }
            // A reading that goes on would keep it at work without end.
            tokio::time::sleep((begun.elapsed() * RESTS).min(LONGEST_REST)).await;
            if let Some(live) = live.upgrade() {
                live.sounder(moment).is_at_work.store(false, Ordering::Release);
            }
        });
    }

    /// Nobody waits for the model meanwhile, but while the graph is copied and what came of it is put in.
    fn sound_now(&self, moment: Moment) {
        let (snapshot, revision, rules) =
            self.look(|model| (model.site.snapshot(moment), model.soundings_revision(moment), model.equity_rules()));
        let soundings = Arc::new(Soundings::of(snapshot, rules));
        self.write().put_soundings(moment, soundings, revision);
    }
}
