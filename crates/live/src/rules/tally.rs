//! Counting how many places each rule has, in the background.

use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant};

use strelm_store::PgPool;

use super::counts::{KeptTally, RuleTally, Tallied};
use super::sweep::RuleSweep;
use crate::error::LiveError;
use crate::live_site::LiveSite;
use crate::model::Model;

/// After it took so long, it rests so many times as long before it is done again; at most for so long.
const RESTS: u32 = 3;
const LONGEST_REST: Duration = Duration::from_secs(10);

impl LiveSite {
    /// The places of all rules. A stale tally is counted again in the background, for which the answer waits so long at most.
    ///
    /// # Errors
    /// [`LiveError::BrokenOff`].
    pub async fn rule_tally(self: &Arc<Self>, pool: &PgPool, wait: Duration) -> Result<Tallied, LiveError> {
        let known = self.ask(Model::tallied).await?;
        if known.is_fresh {
            return Ok(known);
        }
        let done = self.tallier.done.notified();
        self.tally_rules(pool);
        let _ = tokio::time::timeout(wait, done).await;
        self.ask(Model::tallied).await
    }

    /// Counts anew, unless somebody does so already.
    fn tally_rules(self: &Arc<Self>, pool: &PgPool) {
        if self.tallier.is_at_work.swap(true, Ordering::AcqRel) {
            return;
        }
        let (live, pool) = (Arc::clone(self), pool.clone());
        tokio::spawn(async move {
            let begun = Instant::now();
            if let Err(error) = live.tally_now(&pool).await {
                tracing::warn!(%error, "the places of rules cannot be counted at the moment");
            }
            live.tallier.done.notify_waiters();
            // One decision after the other would keep it at work without end.
            tokio::time::sleep((begun.elapsed() * RESTS).min(LONGEST_REST)).await;
            live.tallier.is_at_work.store(false, Ordering::Release);
        });
    }

    async fn tally_now(self: &Arc<Self>, pool: &PgPool) -> Result<(), LiveError> {
        let (rules, of) = self.ask(|model| (Arc::clone(model.rules()), model.tally_revision())).await?;
        let mut tally = RuleTally::default();
        RuleSweep::of(self, pool, rules, |_| true).await?.each(|page| tally.add(&page)).await?;
        self.change(move |model| model.rule_tally = Some(KeptTally { tally: Arc::new(tally), of })).await
    }
}
