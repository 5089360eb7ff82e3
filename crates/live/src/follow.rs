//! From journal entries to changes of a model: what to look up, and how it is put in.

use std::collections::BTreeSet;
use std::sync::Arc;

use chrono::Utc;
use strelm_core::limits::SiteLimits;
use strelm_core::openings::{Habits, Lesson};
use strelm_core::rules::TermArchive;
use strelm_core::site::{Absence, Address, ChangeId, PageId};
use strelm_core::tray::{Passed, TrayEntry};
use strelm_store::edge::{self, EdgeSettings};
use strelm_store::journal::Entry;
use strelm_store::lesson::Learnt;
use strelm_store::listed::{self, ListedPage};
use strelm_store::page::KnownPage;
use strelm_store::planned_page::PlannedPage;
use strelm_store::site::Settings;
use strelm_store::{
    PgPool, Seq, SiteId, StoreError, boilerplate, lesson, page, passed, planned_page, reading, redirect, rule, site,
    site_limits, term, tray,
};

use super::error::LiveError;
use super::graph_deltas::graph_deltas;
use super::judging::known_habits;
use super::live_site::Purpose;
use super::model::{GraphDelta, Latest, Model, ModelKnown, TextDelta, Texts};
use super::progress::LoadProgress;
use super::rules::site_rules::LoadedRules;
use super::text_deltas::{each_looked, each_text, text_deltas};
use super::texts_due;

/// Pages whose texts are in memory at once while a site is loaded.
const AT_ONCE: usize = 1000;

/// Pages whose links are in memory at once while a site is loaded.
const GRAPH_AT_ONCE: usize = 2000;

/// What there is at addresses without a page.
struct Elsewhere {
    redirects: Vec<(Address, Address)>,
    dead: Vec<(Address, Absence)>,
}

impl Elsewhere {
    async fn of(pool: &PgPool, site: SiteId) -> Result<Self, StoreError> {
        Ok(Self { redirects: redirect::all(pool, site).await?, dead: redirect::dead(pool, site).await? })
    }
}

async fn latest(pool: &PgPool, site: SiteId) -> Result<Option<Latest>, StoreError> {
    let readings = reading::all(pool, site, 2).await?;
    let is_first = readings.len() < 2;
    let latest = |reading: &reading::Reading| Latest {
        reading: reading.id,
        is_first,
        is_under_way: reading.finished_at.is_none(),
    };
    Ok(readings.first().map(latest))
}

/// The habits by which openings are to be judged, if by any.
struct Followed(Option<Habits>);

impl Followed {
    async fn of(
        pool: &PgPool,
        site: SiteId,
        shipped: [u8; 32],
        limits: Option<&SiteLimits>,
    ) -> Result<Self, StoreError> {
        match limits.is_some_and(|limits| limits.follows_habits) {
            true => Ok(Self(known_habits(pool, site, shipped).await?)),
            false => Ok(Self(None)),
        }
    }
}

/// The rules of a site, and what is set for its edges.
async fn rules(pool: &PgPool, site: SiteId) -> Result<(LoadedRules, EdgeSettings), StoreError> {
    let rules = LoadedRules {
        kept: rule::all(pool, site).await?,
        limits: rule::limits(pool, site).await?,
        exceptions: rule::exceptions(pool, site).await?.into_iter().collect(),
    };
    Ok((rules, edge::get(pool, site).await?))
}

async fn settings(pool: &PgPool, site: SiteId) -> Result<Option<Settings>, StoreError> {
    Ok(site::get(pool, site).await?.map(|site| site.settings))
}

/// What changed, looked up.
pub struct Delta {
    /// The list of the site, when it is loaded as a whole.
    listed: Option<Vec<ListedPage>>,
    pages: Vec<GraphDelta>,
    /// The texts of these pages, when they are put in at once.
    texts: Option<Vec<TextDelta>>,
    /// All of them, when they changed: redirects, and addresses at which there is nothing.
    elsewhere: Option<Elsewhere>,
    settings: Option<Settings>,
    planned_pages: Option<Vec<PlannedPage>>,
    limits: Option<SiteLimits>,
    rules: Option<(LoadedRules, EdgeSettings)>,
    /// Categories and tags, when links were read.
    terms: Option<Vec<TermArchive>>,
    habits: Option<Followed>,
    latest: Option<Latest>,
    taken: Vec<TrayEntry>,
    /// The pages on the way to which something was passed or brought back, and all that is passed on the way there.
    passed: (Vec<PageId>, Vec<Passed>),
    /// When there is something to learn anew: how many decisions that are, and the latest of them.
    lessons: Option<(Learnt, Vec<Lesson>)>,
    seq: Seq,
}

impl Delta {
    /// Loads a whole site into a model that knows nothing. O(links), and O(bytes of its sources) where these are so few that
    /// nobody waits long for them; else they are still to be read.
    pub async fn load(
        pool: &PgPool,
        site: SiteId,
        seq: Seq,
        model: &mut Model,
        purpose: Purpose,
        progress: &LoadProgress,
    ) -> Result<(), LiveError> {
        let mut all = Self {
            taken: tray::planned(pool, site).await?,
            passed: (Vec::new(), passed::to(pool, site, None).await?),
            lessons: lessons(pool, site, None).await?,
            ..Self::surroundings(pool, site, seq, &model.known()).await?
        };
        all.apply_surroundings(model);
        let known = page::facts(pool, site, None).await?;
        progress.begin(known.len());
        let at_once = purpose == Purpose::Editing && known.len() <= texts_due::LOADED_AT_ONCE;
        load_graph(pool, site, known, model, |pages| progress.add(if at_once { 0 } else { pages })).await?;
        if at_once {
            load_texts(pool, site, model, |pages| progress.add(pages)).await?;
            model.name_all();
            model.book.settle();
            let (judge, pages) = (model.judge_mark(), model.versions.keys().copied().collect());
            // After all pages have their names.
            let put = |looked| {
                model.restore(looked);
                Ok(())
            };
            each_looked(pool, site, judge, pages, put).await?;
            model.texts = Texts::Whole;
        }
        all.terms = Some(term::archives(pool, site).await?);
        all.apply(model);
        Ok(())
    }

    /// Loads some pages of a site alone into a model that knows nothing, as they are. O(bytes of their sources).
    pub async fn load_some(
        pool: &PgPool,
        site: SiteId,
        pages: Vec<KnownPage>,
        model: &mut Model,
    ) -> Result<(), LiveError> {
        Self::surroundings(pool, site, Seq::default(), &model.known()).await?.apply_surroundings(model);
        load_graph(pool, site, pages, model, |_| ()).await?;
        load_texts(pool, site, model, |_| ()).await?;
        model.name_all();
        model.site.settle();
        model.book.settle();
        Ok(())
    }

    /// What is known of a site as a whole.
    async fn surroundings(pool: &PgPool, site: SiteId, seq: Seq, known: &ModelKnown) -> Result<Self, StoreError> {
        let limits = site_limits::get(pool, site).await?;
        Ok(Self {
            listed: Some(listed::all(pool, site).await?),
            pages: Vec::new(),
            texts: None,
            elsewhere: Some(Elsewhere::of(pool, site).await?),
            settings: settings(pool, site).await?,
            planned_pages: Some(planned_page::all(pool, site).await?),
            habits: Some(Followed::of(pool, site, known.shipped, limits.as_ref()).await?),
            limits,
            rules: Some(rules(pool, site).await?),
            terms: None,
            latest: latest(pool, site).await?,
            taken: Vec::new(),
            passed: Default::default(),
            lessons: None,
            seq,
        })
    }

    /// What the entries speak of, each row once, in a handful of queries.
    pub async fn of_entries(
        pool: &PgPool,
        site: SiteId,
        entries: &[(Seq, Entry)],
        from: Seq,
        known: &ModelKnown,
    ) -> Result<Self, LiveError> {
        let mut changed: BTreeSet<PageId> = BTreeSet::new();
        let mut changes: BTreeSet<ChangeId> = BTreeSet::new();
        let mut targets: BTreeSet<PageId> = BTreeSet::new();
        let (mut with_elsewhere, mut with_settings, mut with_latest, mut with_rules) = (false, false, false, false);
        for (_, entry) in entries {
            match entry {
                Entry::Pages(pages) => changed.extend(pages),
                Entry::Taken(taken) => changes.extend(taken),
                Entry::Passed(target) => drop(targets.insert(*target)),
                Entry::Redirects => with_elsewhere = true,
                Entry::Site => with_settings = true,
                Entry::Reading => with_latest = true,
                Entry::Rules => with_rules = true,
                Entry::Release => {}
            }
        }
        let changed: Vec<_> = changed.into_iter().collect();
        let changes: Vec<_> = changes.into_iter().collect();
        let targets: Vec<_> = targets.into_iter().collect();
        let passed = if targets.is_empty() { Vec::new() } else { passed::to(pool, site, Some(&targets)).await? };
        let pages = match changed.is_empty() {
            true => Vec::new(),
            false => graph_deltas(pool, site, page::facts(pool, site, Some(&changed)).await?).await?,
        };
        let texts = match texts_due::are_put_at_once(known.texts, pages.len()) {
            true if pages.is_empty() => Some(Vec::new()),
            true => {
                let there = pages.iter().map(|page| &page.known).filter(|known| known.gone.is_none());
                let there = there.map(|known| (known.facts.id, known.facts.language)).collect();
                let boilerplate = Arc::new(boilerplate::all(pool, site).await?);
                Some(text_deltas(pool, site, there, boilerplate).await?)
            }
            false => None,
        };
        let limits = if with_settings { site_limits::get(pool, site).await? } else { None };
        let habits = match with_settings {
            true => Some(Followed::of(pool, site, known.shipped, limits.as_ref()).await?),
            false => None,
        };
        let latest = if with_latest { latest(pool, site).await? } else { None };
        let is_read = latest.is_some_and(|latest| !latest.is_under_way);
        // With other habits the same decisions teach something else.
        let learnt_from = (!with_settings).then_some(&known.learnt_from);
        let may_teach = with_settings || !changes.is_empty() || !targets.is_empty();
        Ok(Self {
            listed: None,
            pages,
            texts,
            elsewhere: if with_elsewhere { Some(Elsewhere::of(pool, site).await?) } else { None },
            settings: if with_settings { settings(pool, site).await? } else { None },
            planned_pages: if with_settings { Some(planned_page::all(pool, site).await?) } else { None },
            limits,
            rules: if with_rules { Some(rules(pool, site).await?) } else { None },
            terms: if is_read { Some(term::archives(pool, site).await?) } else { None },
            habits,
            latest,
            taken: if changes.is_empty() { Vec::new() } else { tray::by_id(pool, site, &changes).await? },
            passed: (targets, passed),
            lessons: if may_teach { lessons(pool, site, learnt_from).await? } else { None },
            seq: entries.last().map_or(from, |(seq, _)| *seq),
        })
    }

    /// What pages are put into.
    fn apply_surroundings(&mut self, model: &mut Model) {
        if let Some(listed) = self.listed.take() {
            model.put_listed(listed);
        }
        if let Some(elsewhere) = self.elsewhere.take() {
            model.put_elsewhere(&elsewhere.redirects, elsewhere.dead);
        }
        if let Some(settings) = self.settings.take() {
            model.put_settings(&settings);
        }
        if let Some(planned) = self.planned_pages.take() {
            model.put_planned_pages(planned);
        }
        if let Some(Followed(habits)) = self.habits.take() {
            model.put_habits(habits.as_ref());
        }
        if let Some(latest) = self.latest {
            model.put_latest(latest);
        }
    }

    /// Puts what was looked up into the model. O(what changed).
    pub fn apply(mut self, model: &mut Model) {
        self.apply_surroundings(model);
        self.pages.into_iter().for_each(|page| model.put_graph(page));
        if let Some(texts) = self.texts {
            texts.into_iter().for_each(|text| model.put_text(text));
            model.name_all();
        }
        self.taken.into_iter().for_each(|taken| model.put_taken(taken));
        model.put_passed(&self.passed.0, self.passed.1);
        if let Some(limits) = self.limits {
            model.put_limits(limits);
        }
        if let Some(terms) = self.terms {
            model.put_terms(terms);
        }
        if let Some((rules, edge)) = self.rules {
            model.put_rules(rules);
            model.put_edge(edge);
        }
        model.put_day(Utc::now().date_naive());
        if let Some((learnt, lessons)) = self.lessons {
            model.put_lessons(learnt, &lessons);
        }
        model.site.settle();
        if model.is_whole() {
            model.book.settle();
        }
        model.follow_needs();
        model.settle_openings();
        model.seq = self.seq;
    }
}

/// Puts pages into a model with their links alone, in stretches: some are put in while the next are fetched.
async fn load_graph(
    pool: &PgPool,
    site: SiteId,
    pages: Vec<KnownPage>,
    model: &mut Model,
    done: impl Fn(usize),
) -> Result<(), LiveError> {
    let mut pages = pages.into_iter();
    let mut fetch_next = || {
        let (some, pool): (Vec<_>, _) = (pages.by_ref().take(GRAPH_AT_ONCE).collect(), pool.clone());
        tokio::spawn(async move { graph_deltas(&pool, site, some).await })
    };
    let mut ready = fetch_next().await.map_err(|_| LiveError::BrokenOff)??;
    while !ready.is_empty() {
        let next = fetch_next();
        done(ready.len());
        ready.into_iter().for_each(|page| model.put_graph(page));
        ready = next.await.map_err(|_| LiveError::BrokenOff)??;
    }
    Ok(())
}

/// Puts the texts that a model lacks into it. O(bytes of them).
async fn load_texts(pool: &PgPool, site: SiteId, model: &mut Model, done: impl Fn(usize)) -> Result<(), LiveError> {
    let mut unread = model.unread_after(None, usize::MAX).into_iter();
    let next = || Ok(unread.by_ref().take(AT_ONCE).collect());
    let put = |texts: Vec<TextDelta>| {
        done(texts.len());
        texts.into_iter().for_each(|text| model.put_text(text));
        Ok(())
    };
    each_text(pool, site, next, put).await
}

/// What decisions teach, when there are so many more or fewer of them that it is worth to learn anew: a fit that moved
/// with each decision would be hard to trust. `known` is what was learnt from.
async fn lessons(
    pool: &PgPool,
    site: SiteId,
    known: Option<&Learnt>,
) -> Result<Option<(Learnt, Vec<Lesson>)>, StoreError> {
    let (taken, passed) = lesson::count(pool, site).await?;
    let learnt = lesson::learnt(pool, site, step(taken + passed)).await?;
    if Some(&learnt) == known {
        return Ok(None);
    }
    let lessons = lesson::all(pool, site, learnt.count).await?;
    Ok(Some((learnt, lessons)))
}

/// How many of so many decisions are learnt from: every fifth time at first, later every twenty-fifth.
fn step(decisions: usize) -> usize {
    let by = if decisions < 50 { 5 } else { 25 };
    decisions / by * by
}
