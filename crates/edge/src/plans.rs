//! What comes to the pages of a site as they pass: worked out when a page is first asked for, and kept as long as it holds.

use std::collections::HashMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use futures::FutureExt;
use futures::future::{BoxFuture, Shared};
use moka::future::Cache;
use strelm_core::document::Document;
use strelm_core::document::encoding::decode;
use strelm_core::passing::PassingEdit;
use strelm_core::site::{Address, LinkForm, PageId};
use strelm_live::rules::ReadOfPage;
use strelm_live::{LiveError, LiveSite, LiveSites, PassingMark};
use strelm_store::site::Site;
use strelm_store::{PgPool, SiteId, StoreError, journal};
use tokio::sync::{Semaphore, oneshot};

use crate::plan::{Plan, hash_of};

/// Plans in memory, in bytes.
const MOST_BYTES: u64 = 64 << 20;

/// A plan that nobody asked for in so long is forgotten.
const REMEMBERED: Duration = Duration::from_secs(600);

/// Whoever learns pages waits so long for what is known of one.
const LEARNS_WITHIN: Duration = Duration::from_secs(60);

/// After trouble with the database it is tried again.
const LOOKS_EVERY: Duration = Duration::from_millis(500);

/// The plans of a site.
pub struct Plans {
    pool: PgPool,
    live: Arc<LiveSites>,
    site: SiteId,
    entry: Address,
    form: Option<LinkForm>,
    ignored: Vec<String>,
    kept: Cache<Key, Arc<Plan>>,
    /// Counts changes of the site.
    change: AtomicU64,
    /// Plans that are being worked out, by whoever came first, and how many may be at the same time.
    under_way: Mutex<HashMap<Key, Coming>>,
    turns: Semaphore,
}

/// A plan that is being worked out.
type Coming = Shared<BoxFuture<'static, Option<Arc<Plan>>>>;

#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct Key {
    address: String,
    came_from: Option<String>,
}

/// A page that passed and is not as it was known.
pub struct Seen {
    pub address: Address,
    pub text: String,
    /// Of the bytes that passed.
    pub hash: u64,
}

impl Plans {
    pub fn new(pool: PgPool, live: Arc<LiveSites>, site: Site) -> Self {
        let weigher = |key: &Key, plan: &Arc<Plan>| {
            plan.weight().saturating_add(u32::try_from(key.address.len()).unwrap_or(u32::MAX))
        };
        Self {
            pool,
            live,
            site: site.id,
            form: site.form_of_links(),
            entry: site.entry,
            ignored: site.settings.ignored_parameters,
            kept: Cache::builder().max_capacity(MOST_BYTES).weigher(weigher).time_to_idle(REMEMBERED).build(),
            change: AtomicU64::new(1),
            under_way: Mutex::default(),
            turns: Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from)),
        }
    }

    /// Follows the site for as long as it is asked to: what is set is in force as soon as the database tells of it.
    pub async fn follow(&self) {
        loop {
            if let Err(error) = self.follow_notices().await {
                tracing::warn!(%error, "the site cannot be followed; its pages pass as they are known");
            }
            tokio::time::sleep(LOOKS_EVERY).await;
        }
    }

    async fn follow_notices(&self) -> Result<(), LiveError> {
        let mut notices = journal::Listener::start(&self.pool).await?;
        let mut known = None;
        loop {
            let live = self.live.get(&self.pool, self.site).await?;
            let seq = live.ask(|model| model.seq).await?;
            if known.replace(seq) != Some(seq) {
                self.change.fetch_add(1, Ordering::Relaxed);
            }
            // Until the journal grew, or notices may have been missed.
            while notices.next().await?.is_some_and(|growth| growth.site != self.site || growth.seq <= seq) {}
        }
    }

    /// The address of a page by what is asked for.
    pub fn address(&self, path_and_query: &str) -> Option<Address> {
        let url = self.entry.as_url().join(path_and_query).ok()?;
        if url.origin() != self.entry.as_url().origin() {
            return None;
        }
        Address::parse(url.as_str()).ok().map(|address| address.without_parameters(&self.ignored))
    }

    /// What comes to the page at an address, as far as it is known in time; `None` as long as nothing is.
    pub async fn at(
        self: &Arc<Self>,
        address: &Address,
        referrer: Option<&Address>,
        within: Duration,
    ) -> Option<Arc<Plan>> {
        let plan = self.plan(address, None, within).await?;
        match referrer.filter(|referrer| plan.back.contains(referrer)) {
            Some(referrer) => self.plan(address, Some(referrer), within).await,
            None => Some(plan),
        }
    }

    /// For readers who come from wherever, or from a page to which this one would lead back.
    async fn plan(
        self: &Arc<Self>,
        address: &Address,
        came_from: Option<&Address>,
        within: Duration,
    ) -> Option<Arc<Plan>> {
        let change = self.change.load(Ordering::Relaxed);
        let key =
            Key { address: address.as_str().to_owned(), came_from: came_from.map(|from| from.as_str().to_owned()) };
        let known = self.kept.get(&key).await;
        if let Some(plan) = known.as_ref().filter(|plan| plan.is_of(change)) {
            return Some(Arc::clone(plan));
        }
        let coming = self.coming(key, address, came_from, known.clone(), change);
        match tokio::time::timeout(within, coming).await {
            Ok(Some(plan)) => Some(plan),
            // What holds until it is there.
            _ => known,
        }
    }

    /// A plan that is worked out once for all who wait for it, and to its end, even if nobody does any more.
    fn coming(
        self: &Arc<Self>,
        key: Key,
        address: &Address,
        came_from: Option<&Address>,
        known: Option<Arc<Plan>>,
        change: u64,
    ) -> Coming {
        let mut under_way = self.under_way.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(coming) = under_way.get(&key) {
            return coming.clone();
        }
        let (done, waiting) = oneshot::channel();
        let coming = waiting.map(|plan: Result<_, _>| plan.ok().flatten()).boxed().shared();
        under_way.insert(key.clone(), coming.clone());
        let (plans, address, came_from) = (Arc::clone(self), address.clone(), came_from.cloned());
        tokio::spawn(async move {
            let plan = plans.now(&address, came_from.as_ref(), known, change).await;
            let plan = plan.inspect_err(|error| tracing::warn!(%error, "a page passes as it is known")).ok().flatten();
            if let Some(plan) = &plan {
                plans.kept.insert(key.clone(), Arc::clone(plan)).await;
            }
            plans.under_way.lock().unwrap_or_else(PoisonError::into_inner).remove(&key);
            // Perhaps nobody waits any more.
            let _ = done.send(plan);
        });
        coming
    }

    /// A plan as it is to be now: the known one if nothing changed on which it depends.
    async fn now(
        &self,
        address: &Address,
        came_from: Option<&Address>,
        known: Option<Arc<Plan>>,
        change: u64,
    ) -> Result<Option<Arc<Plan>>, LiveError> {
        let Some(live) = self.live.loaded(self.site) else { return Ok(None) };
        let asked = address.clone();
        let (page, mark) = live
            .ask(move |model| {
                let page = model.site.page_at(&asked);
                (page, model.passing_mark(page))
            })
            .await?;
        if let Some(plan) = known.filter(|plan| plan.mark == mark && plan.page == page && plan.still_holds()) {
            plan.see(change);
            return Ok(Some(plan));
        }
        let read = self.read_of(page).await?;
        let source = read.html.clone();
        Ok(Some(Arc::new(self.work_out(&live, (read, source), (page, mark, change), address, came_from).await?)))
    }

    async fn read_of(&self, page: Option<PageId>) -> Result<ReadOfPage, StoreError> {
        match page {
            Some(page) => ReadOfPage::of(&self.pool, self.site, page).await,
            None => Ok(ReadOfPage::default()),
        }
    }

    /// Of a page with what was read of it, and its source if that is known. Only the rules are applied while the model waits.
    async fn work_out(
        &self,
        live: &Arc<LiveSite>,
        (read, source): (ReadOfPage, Option<String>),
        (page, mark, change): (Option<PageId>, PassingMark, u64),
        address: &Address,
        came_from: Option<&Address>,
    ) -> Result<Plan, LiveError> {
        let _turn = self.turns.acquire().await.map_err(|_| LiveError::BrokenOff)?;
        let document = match source {
            Some(source) => Some(aside(|| Document::from_html(source)).await?),
            None => None,
        };
        let passing = match document {
            Some(document) => Some(read.page(&self.pool, self.site, (page, address.clone()), document).await?),
            None => None,
        };
        let (address, came_from, form) = (address.clone(), came_from.cloned(), self.form.clone());
        let is_for_referrer = came_from.is_some();
        let (passing, links, footer, back) = live
            .ask(move |model| {
                let form = form.as_ref();
                let came_from = came_from.and_then(|from| model.site.page_at(&from));
                let links = passing.as_ref().map(|passing| model.links_as_it_passes(passing, form, came_from));
                let links = links.unwrap_or_default();
                let back = links.rule_targets.iter().filter(|_| model.rules().limits.heeds_referrer);
                let back = back.filter_map(|page| Some(model.site.page(*page)?.address.clone())).collect();
                let footer = model.footer(&address, form);
                (passing, links, footer, back)
            })
            .await?;
        aside(move || {
            let edit = passing.map(|passing| PassingEdit::of(&passing.document, &links.links)).unwrap_or_default();
            let edit = match footer {
                Some(html) => edit.with_end(&html),
                None => edit,
            };
            let mut plan = Plan::of(page, edit, back, mark, change);
            plan.is_for_referrer = is_for_referrer;
            plan
        })
        .await
    }

    /// Learns a page as it passed. One that holds what was read of it, as it was read, is known.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn learn(self: &Arc<Self>, seen: Seen) -> Result<(), LiveError> {
        let Some(live) = self.live.loaded(self.site) else { return Ok(()) };
        let Some(plan) = self.at(&seen.address, None, LEARNS_WITHIN).await else { return Ok(()) };
        if plan.fits(seen.hash) {
            return Ok(());
        }
        let read = self.read_of(plan.page).await?;
        let is_as_read = read.html.as_ref().is_some_and(|html| seen.text.contains(html));
        if is_as_read && !plan.is_old() {
            plan.note_fit(seen.hash);
            return Ok(());
        }
        let source = if is_as_read { read.html.clone() } else { Some(seen.text) };
        let of = (plan.page, plan.mark, self.change.load(Ordering::Relaxed));
        let mut learnt = self.work_out(&live, (read, source), of, &seen.address, None).await?;
        learnt.is_learnt = true;
        learnt.note_fit(seen.hash);
        let key = Key { address: seen.address.as_str().to_owned(), came_from: None };
        self.kept.insert(key, Arc::new(learnt)).await;
        Ok(())
    }
}

/// Does what takes long on a thread of its own.
async fn aside<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, LiveError> {
    tokio::task::spawn_blocking(work).await.map_err(|_| LiveError::BrokenOff)
}

/// A page that passed. O(n).
pub fn seen(address: Address, bytes: Vec<u8>, label: Option<&str>) -> Seen {
    let hash = hash_of(&bytes);
    Seen { address, hash, text: decode(bytes, label).text }
}
