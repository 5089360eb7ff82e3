//! What was handed over, looked for on the pages as they are now.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use strelm_core::document::{Document, Link, Sighting};
use strelm_core::site::{Address, Destination, PageId};
use strelm_core::tray::{Seen, TrayEntry};
use strelm_store::page::{self, PageText};
use strelm_store::release::{self, ReleaseId};
use strelm_store::sighted::{self, Sighted};
use strelm_store::{PgPool, SiteId, tray};

use super::JobError;

/// Pages looked at together.
const BATCH: usize = 50;

/// Looks for what was handed over and not seen yet, on some pages or on all. O(bytes of the pages concerned), and a handful of
/// statements for every fifty of them.
pub async fn sight(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<(), JobError> {
    let pages: Option<BTreeSet<_>> = pages.map(|pages| pages.iter().copied().collect());
    let mut by_page: BTreeMap<PageId, Vec<(ReleaseId, TrayEntry)>> = BTreeMap::new();
    for (release, entry) in tray::handed_over(pool, site).await? {
        if pages.as_ref().is_none_or(|pages| pages.contains(&entry.link.source)) {
            by_page.entry(entry.link.source).or_default().push((release, entry));
        }
    }
    let by_page: Vec<_> = by_page.into_iter().collect();
    for batch in by_page.chunks(BATCH) {
        let looked = Looked::at(pool, site, batch).await?;
        let batch = batch.to_vec();
        let sighted = tokio::task::spawn_blocking(move || looked.sighted(&batch)).await;
        sighted::sight(pool, site, &sighted.map_err(|error| JobError::BrokeOff(error.to_string()))?).await?;
    }
    Ok(())
}

type OfPage = (PageId, Vec<(ReleaseId, TrayEntry)>);

/// All that is known of the pages of a batch.
struct Looked {
    texts: HashMap<PageId, PageText>,
    addresses: HashMap<PageId, Address>,
    /// Where what is written on a page leads.
    hrefs: HashMap<PageId, HashMap<String, Address>>,
    /// The sources of pages when they were handed over.
    before: HashMap<(ReleaseId, PageId), String>,
}

impl Looked {
    async fn at(pool: &PgPool, site: SiteId, batch: &[OfPage]) -> Result<Self, JobError> {
        let sources: Vec<_> = batch.iter().map(|(page, _)| *page).collect();
        let links = || batch.iter().flat_map(|(_, links)| links);
        let ends: BTreeSet<_> =
            links().filter_map(|(_, entry)| entry.link.target_page()).chain(sources.clone()).collect();
        let facts = page::facts(pool, site, Some(&ends.into_iter().collect::<Vec<_>>())).await?;
        let of: BTreeSet<_> = links().map(|(release, entry)| (*release, entry.link.source)).collect();
        let mut hrefs: HashMap<PageId, HashMap<String, Address>> = HashMap::new();
        for link in page::links(pool, site, Some(&sources)).await? {
            hrefs.entry(link.page).or_default().insert(link.href, link.to);
        }
        Ok(Self {
            texts: page::texts(pool, site, Some(&sources)).await?.into_iter().map(|text| (text.page, text)).collect(),
            addresses: facts.into_iter().map(|known| (known.facts.id, known.facts.address)).collect(),
            hrefs,
            before: release::sources_before(pool, &of.into_iter().collect::<Vec<_>>()).await?.into_iter().collect(),
        })
    }

    /// What is found of each link, where it is something else than the last time.
    fn sighted(&self, batch: &[OfPage]) -> Vec<Sighted> {
        let mut sighted = Vec::new();
        for (page, links) in batch {
            let source = self.texts.get(page).and_then(|text| text.source.as_ref());
            let now = source.map(|source| Document::read(source.text.as_str(), source.format));
            let mut before: HashMap<ReleaseId, Document> = HashMap::new();
            for (release, entry) in links {
                let seen = match &now {
                    Some(now) => {
                        let before = before.entry(*release).or_insert_with(|| {
                            let text = self.before.get(&(*release, *page)).cloned().unwrap_or_default();
                            Document::read(text, now.format())
                        });
                        let target = entry.link.target_page().and_then(|target| self.addresses.get(&target));
                        strelm_core::tray::sight(entry, now, before, target, |link| self.destination(*page, link))
                    }
                    None => Seen { sighting: Sighting::SentenceGone, words: None },
                };
                if Some(seen.sighting) != entry.sighting || seen.words.is_some() {
                    sighted.push(Sighted { change: entry.id, seen });
                }
            }
        }
        sighted
    }

    fn destination(&self, page: PageId, link: &Link) -> Option<Address> {
        if let Some(known) = self.hrefs.get(&page).and_then(|hrefs| hrefs.get(&link.href)) {
            return Some(known.clone());
        }
        match self.addresses.get(&page)?.follow(&link.href) {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        }
    }
}
