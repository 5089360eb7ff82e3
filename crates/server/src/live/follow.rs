//! From journal entries to changes of a model: what to look up, and how it is put in.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use chrono::Utc;
use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::{Document, Region};
use strelm_core::language::Language;
use strelm_core::limits::HouseRules;
use strelm_core::openings::Lesson;
use strelm_core::phrases::ReadProse;
use strelm_core::site::{Address, ChangeId, OutLink, PageId};
use strelm_store::journal::Entry;
use strelm_store::listed::{self, ListedPage};
use strelm_store::passed::Passed;
use strelm_store::redirect::Absence;
use strelm_store::site::Settings;
use strelm_store::taken::TakenLink;
use strelm_store::{
    PgPool, Seq, SiteId, StoreError, furniture, house_rules, lesson, page, passed, reading, redirect, site, taken,
};

use super::list::Kept;
use super::model::{Latest, Model, PageDelta};

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
    Ok(readings.first().map(|reading| Latest { reading: reading.id, is_first }))
}

async fn settings(pool: &PgPool, site: SiteId) -> Result<Option<Settings>, StoreError> {
    Ok(site::get(pool, site).await?.map(|site| site.settings))
}

/// What changed, looked up.
pub struct Delta {
    /// The list of the site, when it is loaded as a whole.
    listed: Option<Vec<ListedPage>>,
    pages: Vec<PageDelta>,
    /// All of them, when they changed: redirects, and addresses at which there is nothing.
    elsewhere: Option<Elsewhere>,
    settings: Option<Settings>,
    rules: Option<HouseRules>,
    latest: Option<Latest>,
    taken: Vec<TakenLink>,
    /// The pages on the way to which something was passed or brought back, and all that is passed on the way there.
    passed: (Vec<PageId>, Vec<Passed>),
    /// When enough was decided to learn anew: how many decisions that were, and the latest of them.
    lessons: Option<(usize, Vec<Lesson>)>,
    seq: Seq,
}

impl Delta {
    /// A whole site, in one sweep. O(bytes of its sources).
    pub async fn everything(pool: &PgPool, site: SiteId, seq: Seq) -> Result<Self, StoreError> {
        Ok(Self {
            listed: Some(listed::all(pool, site).await?),
            pages: pages(pool, site, None).await?,
            elsewhere: Some(Elsewhere::of(pool, site).await?),
            settings: settings(pool, site).await?,
            rules: house_rules::get(pool, site).await?,
            latest: latest(pool, site).await?,
            taken: taken::planned(pool, site).await?,
            passed: (Vec::new(), passed::to(pool, site, None).await?),
            lessons: lessons(pool, site, usize::MAX).await?,
            seq,
        })
    }

    /// What the entries speak of, each row once, in a handful of queries.
    pub async fn of_entries(
        pool: &PgPool,
        site: SiteId,
        entries: &[(Seq, Entry)],
        from: Seq,
        learnt_from: usize,
    ) -> Result<Self, StoreError> {
        let mut changed: BTreeSet<PageId> = BTreeSet::new();
        let mut changes: BTreeSet<ChangeId> = BTreeSet::new();
        let mut targets: BTreeSet<PageId> = BTreeSet::new();
        let (mut with_elsewhere, mut with_settings, mut with_latest) = (false, false, false);
        for (_, entry) in entries {
            match entry {
                Entry::Pages(pages) => changed.extend(pages),
                Entry::Taken(taken) => changes.extend(taken),
                Entry::Passed(target) => drop(targets.insert(*target)),
                Entry::Redirects => with_elsewhere = true,
                Entry::Site => with_settings = true,
                Entry::Reading => with_latest = true,
                Entry::Release => {}
            }
        }
        let changed: Vec<_> = changed.into_iter().collect();
        let changes: Vec<_> = changes.into_iter().collect();
        let targets: Vec<_> = targets.into_iter().collect();
        let passed = if targets.is_empty() { Vec::new() } else { passed::to(pool, site, Some(&targets)).await? };
        let may_teach = with_settings || !changes.is_empty() || !targets.is_empty();
        Ok(Self {
            listed: None,
            pages: if changed.is_empty() { Vec::new() } else { pages(pool, site, Some(&changed)).await? },
            elsewhere: if with_elsewhere { Some(Elsewhere::of(pool, site).await?) } else { None },
            settings: if with_settings { settings(pool, site).await? } else { None },
            rules: if with_settings { house_rules::get(pool, site).await? } else { None },
            latest: if with_latest { latest(pool, site).await? } else { None },
            taken: if changes.is_empty() { Vec::new() } else { taken::by_id(pool, site, &changes).await? },
            passed: (targets, passed),
            lessons: if may_teach { lessons(pool, site, learnt_from).await? } else { None },
            seq: entries.last().map_or(from, |(seq, _)| *seq),
        })
    }

    pub fn apply(self, model: &mut Model) {
        if let Some(listed) = self.listed {
            model.put_listed(listed);
        }
        if let Some(elsewhere) = self.elsewhere {
            model.put_elsewhere(&elsewhere.redirects, elsewhere.dead);
        }
        if let Some(settings) = self.settings {
            model.site.set_reach(&settings.entries, settings.roads);
        }
        model.latest = self.latest.or(model.latest);
        self.pages.into_iter().for_each(|page| model.put_page(page));
        self.taken.into_iter().for_each(|taken| model.put_taken(taken));
        model.put_passed(&self.passed.0, self.passed.1);
        if let Some(rules) = self.rules {
            model.put_rules(rules);
        }
        model.put_day(Utc::now().date_naive());
        if let Some((count, lessons)) = self.lessons {
            model.put_lessons(count, &lessons);
        }
        model.site.settle();
        model.book.settle();
        model.follow_needs();
        model.settle_openings();
        model.seq = self.seq;
        model.kept = Kept::default();
    }
}

/// What decisions teach, when there are so many more or fewer of them that it is worth to learn anew: a fit that moved
/// with each decision would be hard to trust. `known` is how many were learnt from.
async fn lessons(pool: &PgPool, site: SiteId, known: usize) -> Result<Option<(usize, Vec<Lesson>)>, StoreError> {
    let (taken, passed) = lesson::count(pool, site).await?;
    let count = step(taken + passed);
    if count == known {
        return Ok(None);
    }
    Ok(Some((count, lesson::all(pool, site, count).await?)))
}

/// How many of so many decisions are learnt from: every fifth time at first, later every twenty-fifth.
fn step(decisions: usize) -> usize {
    let by = if decisions < 50 { 5 } else { 25 };
    decisions / by * by
}

async fn pages(pool: &PgPool, site: SiteId, which: Option<&[PageId]>) -> Result<Vec<PageDelta>, StoreError> {
    let known = page::facts(pool, site, which).await?;
    let mut links: BTreeMap<PageId, Vec<OutLink>> = BTreeMap::new();
    let mut fragments: BTreeMap<PageId, Vec<(Address, String)>> = BTreeMap::new();
    let mut hrefs: BTreeMap<PageId, HashMap<String, Address>> = BTreeMap::new();
    for link in page::links(pool, site, which).await? {
        if let Some(fragment) = link.fragment {
            fragments.entry(link.page).or_default().push((link.to.clone(), fragment));
        }
        if link.region == Region::Content {
            hrefs.entry(link.page).or_default().insert(link.href, link.to.clone());
        }
        links.entry(link.page).or_default().push(OutLink { to: link.to, region: link.region });
    }
    let texts = page::texts(pool, site, which).await?;
    let furniture = furniture::all(pool, site).await?;
    let languages: HashMap<PageId, Language> =
        known.iter().map(|known| (known.facts.id, known.facts.language)).collect();
    let parse = move || -> BTreeMap<_, _> {
        let parse = |text: page::PageText| {
            let parsed = text.source.map(|source| {
                let mut document = Document::read(source.text, source.format);
                document.mark_furniture(&furniture);
                let language = languages.get(&text.page).copied().unwrap_or(Language::Other);
                let prose = ReadProse::of(&document, language);
                (document, prose, source.hash)
            });
            (text.page, (parsed, text.ids))
        };
        texts.into_par_iter().map(parse).collect()
    };
    // Parsing is work for a thread of its own; when it is lost, so is the runtime.
    let mut sources = tokio::task::spawn_blocking(parse).await.unwrap_or_default();
    let delta = |known: page::KnownPage| {
        let id = known.facts.id;
        let (source, ids) = sources.remove(&id).unwrap_or_default();
        PageDelta {
            links: links.remove(&id).unwrap_or_default(),
            fragments: fragments.remove(&id).unwrap_or_default(),
            hrefs: hrefs.remove(&id).unwrap_or_default(),
            source,
            ids,
            known,
        }
    };
    Ok(known.into_iter().map(delta).collect())
}
