//! Sites on their way into memory: one load for each, whoever asks for it, which goes on when nobody waits any more.

use std::collections::HashMap;

use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use strelm_store::SiteId;
use tokio::runtime::Handle;
use tokio::sync::watch;

use super::error::LiveError;
use super::live_site::LiveSite;
use super::progress::LoadProgress;

type Outcome = Result<Arc<LiveSite>, Arc<LiveError>>;

/// Whether a site can be asked for anything.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Readiness {
    Ready,
    /// So many of so many pages are in memory; `left` is about how long the rest will take, when that can be told.
    Loading {
        done: usize,
        total: usize,
        left: Option<Duration>,
    },
}

/// A site on its way.
pub(super) struct Load {
    progress: Arc<LoadProgress>,
    since: Instant,
    ended: watch::Receiver<Option<Outcome>>,
}

impl Load {
    /// Waits until the site is there, or it is known why it cannot be.
    pub async fn end(&self) -> Result<Arc<LiveSite>, LiveError> {
        let mut ended = self.ended.clone();
        let outcome = ended.wait_for(Option::is_some).await.map_err(|_| LiveError::BrokenOff)?.clone();
        match outcome {
            Some(Ok(live)) => Ok(live),
            Some(Err(error)) if matches!(*error, LiveError::NoSite) => Err(LiveError::NoSite),
            Some(Err(error)) => Err(LiveError::Load(error)),
            None => Err(LiveError::BrokenOff),
        }
    }

    /// How far it is.
    pub fn readiness(&self) -> Readiness {
        let done = self.progress.done();
        let total = self.progress.total();
        let a_page = |done: u32| self.since.elapsed() / done;
        let rest = u32::try_from(total.saturating_sub(done)).unwrap_or(u32::MAX);
        let left = u32::try_from(done).ok().filter(|done| *done > 0).map(|done| a_page(done).saturating_mul(rest));
        Readiness::Loading { done, total, left }
    }

    /// Whether whoever worked at it went away without a word.
    fn is_broken_off(&self) -> bool {
        self.ended.has_changed().is_err() && self.ended.borrow().is_none()
    }
}

/// All that are on their way.
#[derive(Default)]
pub(super) struct Loads(Mutex<HashMap<SiteId, Arc<Load>>>);

impl Loads {
    /// The load of a site that is under way, or a new one: `work` gets the site ready on a thread of its own.
    pub fn of<F>(self: &Arc<Self>, id: SiteId, work: impl FnOnce(Arc<LoadProgress>) -> F + Send + 'static) -> Arc<Load>
    where
        F: Future<Output = Result<Arc<LiveSite>, LiveError>>,
    {
        let mut loads = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(load) = loads.get(&id).filter(|load| !load.is_broken_off()) {
            return Arc::clone(load);
        }
        let (end, ended) = watch::channel(None);
        let progress = Arc::new(LoadProgress::default());
        let load = Arc::new(Load { progress: Arc::clone(&progress), since: Instant::now(), ended });
        loads.insert(id, Arc::clone(&load));
        let runtime = Handle::current();
        let all = Arc::clone(self);
        tokio::task::spawn_blocking(move || {
            let outcome = runtime.block_on(work(progress)).map_err(Arc::new);
            // Who comes from now on finds the site itself, or tries again.
            all.0.lock().unwrap_or_else(PoisonError::into_inner).remove(&id);
            end.send_replace(Some(outcome));
        });
        load
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn a_load_that_fails_tells_all_who_wait_and_the_next_one_tries_again() {
        let loads = Arc::new(Loads::default());
        let (go, wait) = tokio::sync::oneshot::channel::<()>();
        let first = loads.of(SiteId(1), |progress| async move {
            progress.begin(10);
            progress.add(4);
            let _ = wait.await;
            Err(LiveError::NoSite)
        });
        let same = loads.of(SiteId(1), |_| async { Err(LiveError::BrokenOff) });
        while !matches!(first.readiness(), Readiness::Loading { done: 4, total: 10, left: Some(_) }) {
            tokio::task::yield_now().await;
        }
        go.send(()).unwrap();
        assert!(matches!(first.end().await, Err(LiveError::NoSite)));
        assert!(matches!(same.end().await, Err(LiveError::NoSite)), "the second asked for what was under way");
        let next = loads.of(SiteId(1), |_| async { Err(LiveError::BrokenOff) });
        assert!(matches!(next.end().await, Err(LiveError::Load(_))));
    }

    #[tokio::test]
    async fn a_load_that_breaks_off_keeps_nobody_waiting() {
        let loads = Arc::new(Loads::default());
        let broken = loads.of(SiteId(1), |_| async { panic!("as hostile input might have it") });
        assert!(matches!(broken.end().await, Err(LiveError::BrokenOff)));
        let next = loads.of(SiteId(1), |_| async { Err(LiveError::NoSite) });
        assert!(matches!(next.end().await, Err(LiveError::NoSite)));
    }
}
