//! Click depth: breadth-first search from the entry page, grown when links are added, mended when few went away.

use std::collections::VecDeque;

use rustc_hash::FxHashSet;

use crate::ids::PageId;

/// Where a reader can go from a page, and from where to it.
pub trait LinkGraph {
    /// Calls `visit` with each page that `from` leads to; the same page may come more than once.
    fn each_link_out(&self, from: PageId, visit: &mut dyn FnMut(PageId));

    /// Calls `visit` with each page that leads to `to`, until it says `false`; the same page may come more than once.
    fn each_link_in(&self, to: PageId, visit: &mut dyn FnMut(PageId) -> bool);
}

/// Clicks from the entry page to each page.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Depths {
    depth: Vec<Option<u32>>,
}

impl Depths {
    /// `None` when the page cannot be reached.
    pub fn of(&self, page: PageId) -> Option<u32> {
        self.depth.get(page.0 as usize).copied().flatten()
    }

    /// Says that `page` can be reached in `depth` clicks and that its roads may be new, and follows what that improves:
    /// gives the pages that are nearer now, some more than once.
    ///
    /// From nothing this is a plain breadth-first search, O(pages + links). Later it costs O(links of the pages whose
    /// depth becomes smaller).
    pub fn relax(&mut self, roads: &impl LinkGraph, page: PageId, depth: u32) -> Vec<PageId> {
        let mut nearer = Vec::new();
        if self.improve(page, depth) {
            nearer.push(page);
        }
        let mut queue = VecDeque::from([page]);
        while let Some(page) = queue.pop_front() {
            let Some(next) = self.of(page).map(|depth| depth + 1) else { continue };
            roads.each_link_out(page, &mut |to| {
                if self.improve(to, next) {
                    nearer.push(to);
                    queue.push_back(to);
                }
            });
        }
        nearer
    }

    /// Says that a road to `page` is no more. Gives the pages that may be farther now, or `None` when these would be more
    /// than `most`: then nothing is changed, and a search from nothing is needed.
    ///
    /// Level by level it finds the pages that no other road reaches in as many clicks, forgets their depths, and lets
    /// them be reached anew from the pages around. O(links to and from these pages). After Even and Shiloach, “An on-line
    /// edge-deletion problem” (1981), for a batch of pages at a time.
    pub fn lose(&mut self, roads: &impl LinkGraph, page: PageId, most: usize) -> Option<Vec<PageId>> {
        let mut lost: FxHashSet<PageId> = FxHashSet::default();
        let mut order = Vec::new();
        let mut queue = VecDeque::from([page]);
        while let Some(page) = queue.pop_front() {
            // Where readers start no road is needed.
            let Some(depth) = self.of(page).filter(|depth| *depth > 0 && !lost.contains(&page)) else { continue };
            let mut is_reached = false;
            roads.each_link_in(page, &mut |from| {
                is_reached = !lost.contains(&from) && self.of(from) == Some(depth - 1);
                !is_reached
            });
            if is_reached {
                continue;
            }
            lost.insert(page);
            order.push(page);
            if order.len() > most {
                return None;
            }
            roads.each_link_out(page, &mut |to| {
                if self.of(to) == Some(depth + 1) {
                    queue.push_back(to);
                }
            });
        }
        for page in &order {
            self.depth[page.0 as usize] = None;
        }
        let mut again: Vec<(u32, PageId)> = Vec::new();
        for page in &order {
            let mut above: Option<u32> = None;
            roads.each_link_in(*page, &mut |from| {
                above = above.into_iter().chain(self.of(from)).min();
                true
            });
            again.extend(above.map(|above| (above + 1, *page)));
        }
        again.sort_unstable();
        for (depth, page) in again {
            if self.of(page).is_none_or(|known| depth < known) {
                self.relax(roads, page, depth);
            }
        }
        Some(order)
    }

    /// Pages that are reached in another number of clicks, or by one alone. O(pages).
    pub fn differing(&self, other: &Self) -> Vec<PageId> {
        let pages = u32::try_from(self.depth.len().max(other.depth.len())).unwrap_or(u32::MAX);
        (0..pages).map(PageId).filter(|page| self.of(*page) != other.of(*page)).collect()
    }

    fn improve(&mut self, page: PageId, depth: u32) -> bool {
        let slot = page.0 as usize;
        if self.depth.len() <= slot {
            self.depth.resize(slot + 1, None);
        }
        let better = self.depth[slot].is_none_or(|known| depth < known);
        if better {
            self.depth[slot] = Some(depth);
        }
        better
    }
}
