//! How click depths follow links that come and go, and which pages have other figures than before.

use std::collections::BTreeSet;

use super::{AddressIndex, KeptLink, Record, RoadsCount, Site};
use crate::document::Region;
use crate::ids::PageId;
use crate::reach::{Depths, LinkGraph};

/// Where more pages lose their depth by one link, all depths are searched anew.
const MOST_LOST: usize = 2000;

/// Pages whose figures may be others than before.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Changes {
    Everything,
    Pages(BTreeSet<PageId>),
}

impl Changes {
    pub(super) fn note(&mut self, page: PageId) {
        if let Self::Pages(pages) = self {
            pages.insert(page);
        }
    }

    fn note_all(&mut self, pages: Vec<PageId>) {
        if let Self::Pages(known) = self {
            known.extend(pages);
        }
    }
}

impl Site {
    /// Brings click depths up to date after many links went away: O(pages + links), once for any number of deltas.
    /// After few there is nothing to do.
    pub fn settle(&mut self) {
        if std::mem::take(&mut self.depths_stale) {
            let mut depths = Depths::default();
            for entry in self.entry_pages() {
                depths.relax(&*self, entry, 0);
            }
            let differing = self.depths.differing(&depths);
            self.changes.note_all(differing);
            self.depths = depths;
        }
    }

    /// A shortest way to a page with the tray, from where readers start up to the page itself; of several the one over
    /// pages with the lowest numbers. Empty when there is none. O(links to the pages on it).
    pub fn way_to(&self, page: PageId) -> Vec<PageId> {
        let Some(mut depth) = self.depths.of(page) else { return Vec::new() };
        let mut way = vec![page];
        while let Some(at) = way.last().copied().filter(|_| depth > 0) {
            depth -= 1;
            let mut before: Option<PageId> = None;
            self.each_link_in(at, &mut |from| {
                if self.depths.of(from) == Some(depth) {
                    before = before.into_iter().chain([from]).min();
                }
                true
            });
            match before {
                Some(before) => way.push(before),
                None => return Vec::new(),
            }
        }
        way.reverse();
        way
    }

    /// Pages whose figures may have changed since this was asked for the last time. O(1).
    pub fn take_changes(&mut self) -> Changes {
        std::mem::replace(&mut self.changes, Changes::Pages(BTreeSet::new()))
    }

    /// Takes note that links to, or a page at, `id` are new. O(links to it), plus what comes nearer.
    pub(super) fn relax_into(&mut self, id: PageId) {
        if self.depths_stale {
            return;
        }
        let mut above: Option<u32> = None;
        self.each_link_in(id, &mut |from| {
            above = above.into_iter().chain(self.depths.of(from)).min();
            true
        });
        let depth = if self.is_entry(id) { Some(0) } else { above.map(|depth| depth + 1) };
        if let Some(depth) = depth {
            self.relax(id, depth);
        }
    }

    /// Takes note that a link from one page to another is new. O(1), plus what comes nearer.
    pub(super) fn relax_by(&mut self, source: PageId, target: PageId) {
        let depth = self.depths.of(source).filter(|_| !self.depths_stale).map(|depth| depth + 1);
        if let Some(depth) = depth.filter(|depth| self.depths.of(target).is_none_or(|known| *depth < known)) {
            self.relax(target, depth);
        }
    }

    fn relax(&mut self, page: PageId, depth: u32) {
        let mut depths = std::mem::take(&mut self.depths);
        let nearer = depths.relax(&*self, page, depth);
        self.depths = depths;
        self.changes.note_all(nearer);
    }

    /// Takes note that a link to an address is new.
    pub(super) fn road_found(&mut self, to: AddressIndex) {
        if let Some(page) = self.page_behind(to) {
            self.relax_into(page);
        }
    }

    /// Takes note that a link to an address is no more. O(links of the pages that are farther by it, and links to these).
    pub(super) fn road_lost(&mut self, to: AddressIndex) {
        if let Some(page) = self.page_behind(to) {
            self.lose_into(page);
        }
    }

    /// The same for a link to a page.
    pub(super) fn lose_into(&mut self, page: PageId) {
        if self.depths_stale {
            return;
        }
        let mut depths = std::mem::take(&mut self.depths);
        match depths.lose(&*self, page, MOST_LOST) {
            Some(farther) => self.changes.note_all(farther),
            None => self.depths_stale = true,
        }
        self.depths = depths;
    }
}

impl LinkGraph for Site {
    fn each_link_out(&self, from: PageId, visit: &mut dyn FnMut(PageId)) {
        let Some(record) = self.record(from) else { return };
        self.roads_of(from, record).filter_map(|link| self.page_behind(link.to)).for_each(&mut *visit);
        let planned = self.planned_out.get(&from).into_iter().flatten().copied();
        planned.filter(|target| self.record(*target).is_some()).for_each(visit);
    }

    fn each_link_in(&self, to: PageId, visit: &mut dyn FnMut(PageId) -> bool) {
        let Some(record) = self.record(to) else { return };
        for address in self.addresses_of(to, record.address) {
            for (from, counts) in &self.inbound[address.at()].by_page {
                let counts = self.roads.from == RoadsCount::All || counts.content > 0;
                if counts && *from != to && self.has_road(*from, to) && !visit(*from) {
                    return;
                }
            }
        }
        // The page may have moved since a link to it was planned.
        for (from, _, at) in self.planned.values().filter(|(_, target, _)| *target == to) {
            if *at != record.address && *from != to && self.record(*from).is_some() && !visit(*from) {
                return;
            }
        }
    }
}

impl Site {
    /// The links of a page that are roads, without those that are to go. O(links).
    pub(super) fn roads_of<'s>(&'s self, page: PageId, record: &'s Record) -> impl Iterator<Item = &'s KeptLink> + 's {
        let around = record.links.iter().filter(|link| link.region != Region::Content);
        around.chain(self.counted_content(page, record)).filter(|link| self.roads.count(link))
    }

    /// Whether one of the links from one page to another, which are known to be there, is a road. O(1), or O(links of
    /// `from`) where `nofollow` is heeded.
    fn has_road(&self, from: PageId, to: PageId) -> bool {
        let Some(record) = self.record(from) else { return false };
        self.roads.nofollow
            || self.is_planned(from, to)
            || self.roads_of(from, record).any(|link| self.page_behind(link.to) == Some(to))
    }
}
