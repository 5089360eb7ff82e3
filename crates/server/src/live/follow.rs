//! From journal entries to changes of a model: what to look up, and how it is put in.

use std::collections::{BTreeMap, BTreeSet, HashSet};

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::Document;
use strelm_core::site::{Address, ChangeId, OutLink, PageId};
use strelm_store::journal::Entry;
use strelm_store::taken::TakenLink;
use strelm_store::{PgPool, Seq, SiteId, StoreError, page, passed, redirect, taken};

use super::list::Kept;
use super::model::{Model, PageDelta};

/// What changed, looked up.
pub struct Delta {
    pages: Vec<PageDelta>,
    redirects: Vec<(Address, Address)>,
    taken: Vec<TakenLink>,
    passed: Vec<(PageId, PageId, bool)>,
    seq: Seq,
}

impl Delta {
    /// A whole site, in one sweep. O(bytes of its sources).
    pub async fn everything(pool: &PgPool, site: SiteId, seq: Seq) -> Result<Self, StoreError> {
        let passed = passed::all(pool, site, None).await?;
        Ok(Self {
            pages: pages(pool, site, None).await?,
            redirects: redirect::all(pool, site).await?,
            taken: taken::planned(pool, site).await?,
            passed: passed.into_iter().map(|passed| (passed.source, passed.target, true)).collect(),
            seq,
        })
    }

    /// What the entries speak of, each row once, in a handful of queries.
    pub async fn of_entries(
        pool: &PgPool,
        site: SiteId,
        entries: &[(Seq, Entry)],
        from: Seq,
    ) -> Result<Self, StoreError> {
        let mut changed: BTreeSet<PageId> = BTreeSet::new();
        let mut changes: BTreeSet<ChangeId> = BTreeSet::new();
        let mut pairs: BTreeSet<(PageId, PageId)> = BTreeSet::new();
        let mut with_redirects = false;
        for (_, entry) in entries {
            match entry {
                Entry::Pages(pages) => changed.extend(pages),
                Entry::Taken(taken) => changes.extend(taken),
                Entry::Passed { source, target } => {
                    pairs.insert((*source, *target));
                }
                Entry::Redirects => with_redirects = true,
                Entry::Reading | Entry::Release => {}
            }
        }
        let changed: Vec<_> = changed.into_iter().collect();
        let changes: Vec<_> = changes.into_iter().collect();
        let pairs: Vec<_> = pairs.into_iter().collect();
        let set_aside = if pairs.is_empty() { HashSet::new() } else { passed::among(pool, site, &pairs).await? };
        let passed = pairs.into_iter().map(|pair| (pair.0, pair.1, set_aside.contains(&pair))).collect();
        Ok(Self {
            pages: if changed.is_empty() { Vec::new() } else { pages(pool, site, Some(&changed)).await? },
            redirects: if with_redirects { redirect::all(pool, site).await? } else { Vec::new() },
            taken: if changes.is_empty() { Vec::new() } else { taken::by_id(pool, site, &changes).await? },
            passed,
            seq: entries.last().map_or(from, |(seq, _)| *seq),
        })
    }

    pub fn apply(self, model: &mut Model) {
        self.redirects.iter().for_each(|(from, to)| model.site.put_redirect(from, to));
        self.pages.into_iter().for_each(|page| model.put_page(page));
        self.taken.into_iter().for_each(|taken| model.put_taken(taken));
        self.passed.into_iter().for_each(|(source, target, is)| model.put_passed(source, target, is));
        model.site.settle();
        model.seq = self.seq;
        model.kept = Kept::default();
    }
}

async fn pages(pool: &PgPool, site: SiteId, which: Option<&[PageId]>) -> Result<Vec<PageDelta>, StoreError> {
    let facts = page::facts(pool, site, which).await?;
    let mut links: BTreeMap<PageId, Vec<OutLink>> = BTreeMap::new();
    for link in page::links(pool, site, which).await? {
        links.entry(link.page).or_default().push(OutLink { to: link.to, region: link.region });
    }
    let texts = page::texts(pool, site, which).await?;
    let parse = move || -> BTreeMap<_, _> {
        let with_source = texts.into_par_iter().filter_map(|text| Some((text.page, text.source?)));
        with_source.map(|(page, (html, hash))| (page, (Document::from_html(html), hash))).collect()
    };
    // Parsing is work for a thread of its own; when it is lost, so is the runtime.
    let mut sources = tokio::task::spawn_blocking(parse).await.unwrap_or_default();
    let delta = |facts: strelm_core::site::PageFacts| PageDelta {
        links: links.remove(&facts.id).unwrap_or_default(),
        source: sources.remove(&facts.id),
        facts,
    };
    Ok(facts.into_iter().map(delta).collect())
}
