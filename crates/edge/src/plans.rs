//! What comes to the pages of a site as they pass: worked out when a page is first asked for, and kept as long as it holds.

use std::collections::{HashMap, HashSet};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, PoisonError};
use std::time::{Duration, Instant};

use futures::FutureExt;
use futures::future::{BoxFuture, Shared};
use moka::future::Cache;
use strelm_core::document::Document;
use strelm_core::document::encoding::decode;
use strelm_core::passing::PassingEdit;
use strelm_core::site::{Address, BlockKey, LinkForm, PageId, Target};
use strelm_live::rules::{PassingPage, ReadOfPage};
use strelm_live::{LiveError, LiveSite, LiveSites, Model, PassingMark};
use strelm_store::site::Site;
use strelm_store::{PgPool, SiteId, StoreError, boilerplate};
use tokio::sync::{Mutex, Semaphore, oneshot};

use crate::plan::{Plan, hash_of};

/// Plans in memory, in bytes.
const MOST_BYTES: u64 = 64 << 20;

/// A plan that nobody asked for in so long is forgotten.
const REMEMBERED: Duration = Duration::from_secs(600);

/// Whoever learns pages waits so long for what is known of one.
const LEARNS_WITHIN: Duration = Duration::from_secs(60);

/// How often the site is asked whether anything changed.
const LOOKS_EVERY: Duration = Duration::from_millis(500);

/// Boilerplate is looked up again after so long.
const BOILERPLATE_HOLDS: Duration = Duration::from_secs(60);

type Boilerplate = Arc<HashSet<BlockKey>>;

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
    boilerplate: Mutex<Option<(Instant, Boilerplate)>>,
    /// Plans that are being worked out, by whoever came first, and how many may be at the same time.
    under_way: std::sync::Mutex<HashMap<Key, Coming>>,
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
            boilerplate: Mutex::new(None),
            under_way: std::sync::Mutex::default(),
            turns: Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from)),
        }
    }

    /// Follows the site for as long as it is asked to: what is set is in force within a second.
    pub async fn follow(&self) {
        let mut known = None;
        loop {
            match self.live.get(&self.pool, self.site).await {
                Ok(live) => match live.ask(|model| model.seq).await {
                    Ok(seq) if known != Some(seq) => {
                        known = Some(seq);
                        self.change.fetch_add(1, Ordering::Relaxed);
                    }
                    _ => {}
                },
                Err(error) => tracing::warn!(%error, "the site cannot be followed; its pages pass as they are known"),
            }
            tokio::time::sleep(LOOKS_EVERY).await;
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
        let known = match page {
            Some(page) => self.known(page).await?,
            None => None,
        };
        Ok(Some(Arc::new(self.work_out(&live, known, (page, mark, change), address, came_from).await?)))
    }

    /// Of a page with its text, if that is known.
    async fn work_out(
        &self,
        live: &Arc<LiveSite>,
        known: Option<Known>,
        (page, mark, change): (Option<PageId>, PassingMark, u64),
        address: &Address,
        came_from: Option<&Address>,
    ) -> Result<Plan, LiveError> {
        let (address, came_from, form) = (address.clone(), came_from.cloned(), self.form.clone());
        let _turn = self.turns.acquire().await.map_err(|_| LiveError::BrokenOff)?;
        live.ask(move |model| {
            let form = form.as_ref();
            let came_from = came_from.and_then(|from| model.site.page_at(&from));
            let (edit, back) = match known {
                Some(known) => known.edit(model, &address, form, came_from),
                None => Default::default(),
            };
            let edit = match footer(model, form) {
                Some(html) => edit.with_end(&html),
                None => edit,
            };
            Plan::of(page, edit, back, mark, change)
        })
        .await
    }

    /// What was read of a page, with its text as it stands in the page; `None` where that is not known.
    async fn known(&self, page: PageId) -> Result<Option<Known>, StoreError> {
        let ReadOfPage { html, tags, hrefs } = ReadOfPage::of(&self.pool, self.site, page).await?;
        let boilerplate = self.boilerplate().await?;
        Ok(html.map(|source| Known { page: Some(page), source, tags, hrefs, boilerplate }))
    }

    async fn boilerplate(&self) -> Result<Boilerplate, StoreError> {
        let mut kept = self.boilerplate.lock().await;
        if let Some((_, keys)) = kept.as_ref().filter(|(since, _)| since.elapsed() < BOILERPLATE_HOLDS) {
            return Ok(Arc::clone(keys));
        }
        let keys = Arc::new(boilerplate::all(&self.pool, self.site).await?);
        *kept = Some((Instant::now(), Arc::clone(&keys)));
        Ok(keys)
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
        let read = match plan.page {
            Some(page) => ReadOfPage::of(&self.pool, self.site, page).await?,
            None => ReadOfPage::default(),
        };
        let as_read = read.html.filter(|html| seen.text.contains(html));
        if as_read.is_some() && !plan.is_old() {
            plan.note_fit(seen.hash);
            return Ok(());
        }
        let (source, boilerplate) = (as_read.unwrap_or(seen.text), self.boilerplate().await?);
        let known = Known { page: plan.page, source, tags: read.tags, hrefs: read.hrefs, boilerplate };
        let of = (plan.page, plan.mark, self.change.load(Ordering::Relaxed));
        let mut learnt = self.work_out(&live, Some(known), of, &seen.address, None).await?;
        learnt.is_learnt = true;
        learnt.note_fit(seen.hash);
        let key = Key { address: seen.address.as_str().to_owned(), came_from: None };
        self.kept.insert(key, Arc::new(learnt)).await;
        Ok(())
    }
}

/// The foot of every page, if there is to be one.
fn footer(model: &Model, form: Option<&LinkForm>) -> Option<String> {
    let footer = &model.edge().footer;
    if !footer.is_on {
        return None;
    }
    footer.html(|page| Target::Page(page).href(model.site.entry(), form, &model.ground(form)))
}

/// The text of a page, and what was read of it.
struct Known {
    page: Option<PageId>,
    source: String,
    tags: Vec<String>,
    hrefs: HashMap<String, Address>,
    boilerplate: Boilerplate,
}

impl Known {
    /// What comes to it as it passes. O(n).
    fn edit(
        self,
        model: &Model,
        address: &Address,
        form: Option<&LinkForm>,
        came_from: Option<PageId>,
    ) -> (PassingEdit, Vec<Address>) {
        let mut document = Document::from_html(self.source);
        document.mark_boilerplate(&self.boilerplate);
        let known = self.page.and_then(|page| model.site.page(page)).map(|facts| facts.address.clone());
        let address = known.unwrap_or_else(|| address.clone());
        let page = PassingPage { page: self.page, address, document, tags: self.tags, hrefs: self.hrefs };
        let links = model.links_as_it_passes(&page, form, came_from);
        let back = links.rule_targets.iter().filter(|_| model.rules().limits.heeds_referrer);
        let back = back.filter_map(|page| Some(model.site.page(*page)?.address.clone())).collect();
        (PassingEdit::of(&page.document, &links.links), back)
    }
}

/// A page that passed. O(n).
pub fn seen(address: Address, bytes: Vec<u8>, label: Option<&str>) -> Seen {
    let hash = hash_of(&bytes);
    Seen { address, hash, text: decode(bytes, label).text }
}
