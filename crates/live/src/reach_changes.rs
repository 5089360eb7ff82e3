//! Telling after each reading which pages came within reach and which were lost, and by which edit.

use std::sync::atomic::Ordering;
use std::sync::{Arc, Weak};
use std::time::Duration;

use strelm_core::audit::Traces;
use strelm_core::site::Moment;
use strelm_store::reading::ReadingId;
use strelm_store::{PgPool, journal, reach_change};

use super::error::LiveError;
use super::live_site::LiveSite;

/// How long it waits for the soundings of a large site.
const WAIT: Duration = Duration::from_secs(120);

/// Starts to compare the reach after the latest reading with that after the one before, unless that was done.
pub fn note_reach(live: &Arc<LiveSite>, pool: &PgPool) {
    let noted = live.reach_noted.load(Ordering::Acquire);
    let latest = live.latest_done.load(Ordering::Acquire);
    if latest <= noted || live.reach_noted.compare_exchange(noted, latest, Ordering::AcqRel, Ordering::Acquire).is_err()
    {
        return;
    }
    let (pool, live) = (pool.clone(), Arc::downgrade(live));
    tokio::spawn(async move {
        let Some(live) = Weak::upgrade(&live) else { return };
        match compare(&live, &pool, ReadingId(latest)).await {
            Ok(true) => return,
            Ok(false) => {}
            Err(error) => tracing::warn!(%error, "what came within reach cannot be told at the moment"),
        }
        // It is tried again when the site is asked for next.
        live.reach_noted.store(noted, Ordering::Release);
    });
}

/// `false` when the site did not come to rest in time.
async fn compare(live: &Arc<LiveSite>, pool: &PgPool, latest: ReadingId) -> Result<bool, LiveError> {
    let before = reach_change::traces(pool, live.id).await?;
    let is_compared = before.as_ref().is_some_and(|(reading, _)| *reading >= latest);
    if !is_compared && !compare_anew(live, pool, latest, before).await? {
        return Ok(false);
    }
    // Another process may have been faster.
    let changes = reach_change::all(pool, live.id).await?;
    live.change(move |model| model.put_reach_changes(latest, changes)).await?;
    Ok(true)
}

async fn compare_anew(
    live: &Arc<LiveSite>,
    pool: &PgPool,
    latest: ReadingId,
    before: Option<(ReadingId, Vec<u8>)>,
) -> Result<bool, LiveError> {
    // The reading may be known to be done before its last pages are in the model.
    let end = journal::end(pool, live.id).await?.ok_or(LiveError::NoSite)?;
    if live.at.load(Ordering::Acquire) < end.0 {
        return Ok(false);
    }
    let sounded = live.soundings(Moment::Now, WAIT).await?;
    let Some(soundings) = sounded.soundings.filter(|_| sounded.is_fresh) else { return Ok(false) };
    let old = before.as_ref().map(|(_, bytes)| Traces::from_bytes(bytes));
    let compared = live
        .ask(move |model| {
            let is_of_now = model.sounded(Moment::Now).is_fresh;
            is_of_now.then(|| {
                let changes = old.map(|old| old.changes(&model.site, &soundings)).unwrap_or_default();
                (Traces::of(&model.site, &soundings).to_bytes(), changes)
            })
        })
        .await?;
    let Some((bytes, changes)) = compared else { return Ok(false) };
    let before = before.map(|(reading, _)| reading);
    reach_change::keep(pool, live.id, latest, &bytes, before, &changes).await?;
    Ok(true)
}
