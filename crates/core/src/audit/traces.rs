//! How readers got to each page at an earlier time, and what became of it: which pages came within reach since, which were
//! lost, and by which edit.

use std::hash::BuildHasher;

use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use crate::ids::PageId;
use crate::reach::Soundings;
use crate::site::{Address, Site};

/// Stands for the page before one on which readers start, and before one that cannot be reached.
const ENTRY: u32 = u32::MAX;
const LOST: u32 = u32::MAX - 1;

/// Bytes of one page.
const SIZE: usize = 16;

/// By page, the page before it on a shortest way, and the address by which the link between them led.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Traces(FxHashMap<PageId, Trace>);

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Trace {
    before: u32,
    /// The hash of the address as it was linked.
    by: u64,
}

/// A page that came within reach or was lost.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReachChange {
    pub page: PageId,
    /// Whether it came; else it was lost.
    pub came: bool,
    pub by: ReachEdit,
}

/// The edit by which pages came or were lost: the step of their way that was not there before, or is no more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum ReachEdit {
    /// A link from one page to another: it is new, or was taken off.
    Link { from: PageId, to: PageId },
    /// A page that is new, or was taken off the site.
    Page(PageId),
    /// A link that is there still and led to the page: its address leads elsewhere now.
    Redirect { from: PageId, to: PageId },
    /// Where readers start.
    Entry(PageId),
}

fn hash_of(address: &Address) -> u64 {
    // The same in every build: it is kept.
    FxBuildHasher.hash_one(address.as_str())
}

/// The hashes of the addresses to which a page leads. O(its links).
fn links_of(site: &Site, page: PageId) -> FxHashSet<u64> {
    let to_pages = site.roads_by_address(page).map(|(_, address)| address);
    to_pages.chain(site.links_nowhere(page)).map(hash_of).collect()
}

impl Traces {
    /// Of a site as it stands; `soundings` are of the same moment. O(pages + links of the pages that lead on).
    pub fn of(site: &Site, soundings: &Soundings) -> Self {
        let (snapshot, ways) = (soundings.snapshot(), soundings.ways());
        let mut traces: FxHashMap<PageId, Trace> = FxHashMap::default();
        let mut leading: FxHashSet<PageId> = FxHashSet::default();
        for number in snapshot.numbers() {
            let Some(page) = snapshot.page(number) else { continue };
            let before = match ways.before(number).and_then(|before| snapshot.page(before)) {
                Some(before) => {
                    leading.insert(before);
                    before.0
                }
                None if ways.depth(number).is_some() => ENTRY,
                None => LOST,
            };
            traces.insert(page, Trace { before, by: 0 });
        }
        for from in leading {
            for (to, address) in site.roads_by_address(from) {
                if let Some(trace) = traces.get_mut(&to).filter(|trace| trace.before == from.0 && trace.by == 0) {
                    trace.by = hash_of(address);
                }
            }
        }
        Self(traces)
    }

    /// Sixteen bytes for each page, in the order of their ids: id, page before, address; all little-endian.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut pages: Vec<_> = self.0.iter().collect();
        pages.sort_unstable_by_key(|(page, _)| **page);
        let mut bytes = Vec::with_capacity(pages.len() * SIZE);
        for (page, Trace { before, by }) in pages {
            bytes.extend_from_slice(&page.0.to_le_bytes());
            bytes.extend_from_slice(&before.to_le_bytes());
            bytes.extend_from_slice(&by.to_le_bytes());
        }
        bytes
    }

    /// What [`Traces::to_bytes`] wrote; bytes that are none tell of no page.
    pub fn from_bytes(bytes: &[u8]) -> Self {
        let number = |bytes: &[u8]| bytes.iter().rev().fold(0u64, |sum, byte| sum << 8 | u64::from(*byte));
        let part = |bytes: &[u8]| u32::try_from(number(bytes)).unwrap_or(ENTRY);
        let trace =
            |bytes: &[u8]| (PageId(part(&bytes[..4])), Trace { before: part(&bytes[4..8]), by: number(&bytes[8..]) });
        Self(bytes.chunks_exact(SIZE).map(trace).collect())
    }

    /// Whether a page could be reached.
    fn reaches(&self, page: PageId) -> bool {
        self.0.get(&page).is_some_and(|trace| trace.before != LOST)
    }

    /// The page before one on the way of then.
    fn before(&self, page: PageId) -> Option<PageId> {
        self.0.get(&page).map(|trace| trace.before).filter(|before| *before < LOST).map(PageId)
    }

    /// Pages that were there then and are there now, and came within reach or were lost since, in the order of their ids.
    /// O(pages + links of those that took others with them).
    pub fn changes(&self, site: &Site, now: &Soundings) -> Vec<ReachChange> {
        let (snapshot, ways) = (now.snapshot(), now.ways());
        let before_now = |page: PageId| snapshot.page(ways.before(snapshot.number_of(page)?)?);
        let (mut lost, mut came) = (FirstSteps::default(), FirstSteps::default());
        let mut linked: FxHashMap<PageId, FxHashSet<u64>> = FxHashMap::default();
        let mut found = Vec::new();
        for number in snapshot.numbers() {
            let Some(page) = snapshot.page(number).filter(|page| self.0.contains_key(page)) else { continue };
            let (came, by) = match (self.reaches(page), ways.depth(number).is_some()) {
                (true, false) => {
                    let to = lost.to(page, |page| self.before(page), |page| now.depth(page).is_some());
                    let edit = match self.before(to).filter(|from| now.depth(*from).is_some()) {
                        None => ReachEdit::Entry(to),
                        Some(_) if site.page(to).is_none() => ReachEdit::Page(to),
                        Some(from) => {
                            let linked = linked.entry(from).or_insert_with(|| links_of(site, from));
                            let is_linked = self.0.get(&to).is_some_and(|trace| linked.contains(&trace.by));
                            if is_linked { ReachEdit::Redirect { from, to } } else { ReachEdit::Link { from, to } }
                        }
                    };
                    (false, edit)
                }
                (false, true) => {
                    let to = came.to(page, before_now, |page| self.reaches(page));
                    (true, self.came_by(before_now(to), to))
                }
                _ => continue,
            };
            found.push(ReachChange { page, came, by });
        }
        found
    }

    /// What the step to a page is that could not be reached then, on the way of now.
    fn came_by(&self, from: Option<PageId>, to: PageId) -> ReachEdit {
        match from {
            None => ReachEdit::Entry(to),
            Some(_) if !self.0.contains_key(&to) => ReachEdit::Page(to),
            Some(from) => ReachEdit::Link { from, to },
        }
    }
}

/// By page on some ways, the page to which the first step leads that is not there at the other time.
#[derive(Default)]
struct FirstSteps(FxHashMap<PageId, PageId>);

impl FirstSteps {
    /// Up the way of a page, the last of the pages in a row that are not there; `before` leads up the way. O(1) for each page
    /// on all ways that are asked for together.
    fn to(
        &mut self,
        page: PageId,
        before: impl Fn(PageId) -> Option<PageId>,
        is_there: impl Fn(PageId) -> bool,
    ) -> PageId {
        let mut way = Vec::new();
        let mut at = page;
        let first = loop {
            if let Some(known) = self.0.get(&at) {
                break *known;
            }
            // What is on the way already leads in a circle, as bytes do that are none.
            self.0.insert(at, at);
            way.push(at);
            match before(at).filter(|before| !is_there(*before)) {
                Some(before) => at = before,
                None => break at,
            }
        };
        self.0.extend(way.into_iter().map(|page| (page, first)));
        first
    }
}
