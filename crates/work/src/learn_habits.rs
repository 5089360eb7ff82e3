//! The end of a reading: what the site's own links tell of its authors is learnt when it is not known yet.

use std::sync::Arc;
use std::time::Duration;

use strelm_core::openings::learning::FEWEST;
use strelm_core::openings::{Ensemble, Habits};
use strelm_store::habits::{self, KeptHabits};
use strelm_store::lock::WorkLock;
use strelm_store::site::Site;
use tokio::runtime::Handle;
use tokio::sync::oneshot;

use super::keeper::Keeper;
use super::{JobError, Tools};

/// It is looked so often whether the reading is to stop.
const LOOKED_EVERY: Duration = Duration::from_secs(1);

/// Learns when there are a tenth more links than when it was learnt, or a tenth fewer, or when another Strelm did. Ends
/// without a result when the reading is to stop.
pub(super) async fn learn(
    tools: &Tools,
    site: &Site,
    keeper: &mut Keeper<'_>,
    lock: &mut WorkLock,
) -> Result<(), JobError> {
    let shipped = Arc::new(Ensemble::shipped().map_err(|error| JobError::BrokeOff(error.to_string()))?);
    let judge = shipped.mark();
    let links = habits::content_links(&tools.pool, site.id).await?;
    let known = habits::get(&tools.pool, site.id).await?;
    let holds = |known: KeptHabits| {
        let is_read = known.learnt.is_none_or(|learnt| Habits::parse(&learnt).is_ok());
        is_read && known.judge == judge && links.abs_diff(known.links) * 10 <= known.links
    };
    if known.is_some_and(holds) {
        return Ok(());
    }
    if links < FEWEST as u64 {
        return Ok(habits::put(&tools.pool, site.id, &KeptHabits { learnt: None, judge, links }).await?);
    }
    let (stop, stopped) = oneshot::channel::<()>();
    let (pool, id, entry, runtime) = (tools.pool.clone(), site.id, site.entry.clone(), Handle::current());
    let mut learning = tokio::task::spawn_blocking(move || {
        runtime.block_on(async {
            tokio::select! {
                learnt = strelm_live::learn_habits(&pool, id, entry, shipped) => learnt,
                // Nobody asks for the result any more.
                _ = stopped => Ok(None),
            }
        })
    });
    keeper.tell("All pages are read. Strelm learns what their links have in common.");
    let learnt = loop {
        match tokio::time::timeout(LOOKED_EVERY, &mut learning).await {
            Ok(ended) => break ended.map_err(|error| JobError::BrokeOff(error.to_string()))??,
            Err(_) => keeper.keep(None, lock).await?,
        }
        if keeper.is_to_stop {
            drop(stop);
            return Ok(());
        }
    };
    let learnt = learnt.map(|habits| habits.to_text());
    Ok(habits::put(&tools.pool, site.id, &KeptHabits { learnt, judge, links }).await?)
}
