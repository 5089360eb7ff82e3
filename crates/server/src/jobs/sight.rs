//! What was handed over, looked for on the pages as they are now.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use strelm_core::document::{Document, Leads, Link, Sighting, Sought};
use strelm_core::site::{Address, Destination, PageId};
use strelm_store::page::{self, PageText};
use strelm_store::release::{self, ReleaseId};
use strelm_store::sighted::{self, Sighted};
use strelm_store::taken::{self, Change, TakenLink};
use strelm_store::{PgPool, SiteId};

use super::JobError;
use crate::edits::{new_quote_of, quote_of, words_of};

/// Pages looked at together.
const BATCH: usize = 50;

/// Looks for what was handed over and not seen yet, on some pages or on all. O(bytes of the pages concerned), and a handful of
/// statements for every fifty of them.
pub async fn sight(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<(), JobError> {
    let pages: Option<BTreeSet<_>> = pages.map(|pages| pages.iter().copied().collect());
    let mut by_page: BTreeMap<PageId, Vec<(ReleaseId, TakenLink)>> = BTreeMap::new();
    for (release, taken) in taken::handed_over(pool, site).await? {
        if pages.as_ref().is_none_or(|pages| pages.contains(&taken.link.source)) {
            by_page.entry(taken.link.source).or_default().push((release, taken));
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

type OfPage = (PageId, Vec<(ReleaseId, TakenLink)>);

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
        let ends: BTreeSet<_> = links().filter_map(|(_, taken)| taken.link.target).chain(sources.clone()).collect();
        let facts = page::facts(pool, site, Some(&ends.into_iter().collect::<Vec<_>>())).await?;
        let of: BTreeSet<_> = links().map(|(release, taken)| (*release, taken.link.source)).collect();
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
            for (release, taken) in links {
                let found = match &now {
                    Some(now) => {
                        let before = before.entry(*release).or_insert_with(|| {
                            let text = self.before.get(&(*release, *page)).cloned().unwrap_or_default();
                            Document::read(text, now.format())
                        });
                        self.sight(taken, now, before)
                    }
                    None => Sighted { change: taken.id, sighting: Sighting::SentenceGone, words: None },
                };
                if Some(found.sighting) != taken.sighting || found.words.is_some() {
                    sighted.push(found);
                }
            }
        }
        sighted
    }

    fn sight(&self, taken: &TakenLink, now: &Document, before: &Document) -> Sighted {
        let link = &taken.link;
        let was = quote_of(taken);
        let sought = match &link.change {
            Change::Put | Change::Reword(_) => Sought::Link { was, becomes: new_quote_of(taken) },
            Change::PutOnPicture(picture) => Sought::OnPicture(*picture),
            Change::Retarget(_) => Sought::Elsewhere { was },
            Change::Unlink(_) => Sought::Off { was },
        };
        let target = link.target.and_then(|target| self.addresses.get(&target));
        let old = link.change.old().map(|old| &old.to);
        let leads = Leads {
            new: |other: &Link| target.is_some() && self.destination(link.source, other).as_ref() == target,
            old: |other: &Link| old.is_some() && self.destination(link.source, other).as_ref() == old,
        };
        let sighting = now.sight(&sought, before, &leads);
        let is_elsewhere = !sighting.is_made() && link.source_hash != now.hash() && link.change.brings_link();
        let words = is_elsewhere.then(|| words_of(now, taken).ok()).flatten();
        Sighted { change: taken.id, sighting, words: words.map(|words| (words, now.hash())) }
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
