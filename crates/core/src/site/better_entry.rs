//! A better page to start from, where hardly anything can be reached from where readers are said to start.

use std::cmp::Reverse;

use super::graph::Site;
use super::page::{PageFacts, PageKind};
use crate::ids::PageId;
use crate::reach::{Depths, LinkGraph};

/// On fewer pages nothing is proposed.
const FEWEST_PAGES: usize = 5;

/// Pages whose reach is looked at.
const CANDIDATES: usize = 8;

/// A page with how many pages can be reached from it, itself included.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct BetterEntry {
    pub page: PageId,
    pub reaches: usize,
    /// How many can be reached from the entry pages.
    pub now: usize,
    /// All pages; files are none.
    pub of: usize,
}

impl Site {
    /// The page from which most of the site can be reached, at least twice and half of it, when from the entry pages no
    /// more than a tenth can be. O(pages + links), a few times.
    pub fn better_entry(&self) -> Option<BetterEntry> {
        let pages: Vec<&PageFacts> = self.pages().filter(|page| page.kind != PageKind::File).collect();
        let of = pages.len();
        let now = pages.iter().filter(|page| self.depth(page.id).is_some()).count();
        if of < FEWEST_PAGES || now * 10 > of {
            return None;
        }
        let roads = |page: &PageFacts| {
            let mut count = 0usize;
            self.each_link_out(page.id, &mut |_| count += 1);
            count
        };
        let mut candidates: Vec<_> =
            pages.iter().map(|page| (Reverse(roads(page)), page.address.as_str(), page.id)).collect();
        candidates.sort_unstable();
        let reach = |page: PageId| {
            let mut depths = Depths::default();
            depths.relax(self, page, 0);
            pages.iter().filter(|page| depths.of(page.id).is_some()).count()
        };
        let reaching = candidates.into_iter().take(CANDIDATES).map(|(_, address, page)| (reach(page), address, page));
        // Of several that reach as much, the one nearest to the root.
        let best = reaching.max_by_key(|(reaches, address, _)| {
            (*reaches, Reverse(address.matches('/').count()), Reverse(address.len()))
        });
        let (reaches, _, page) = best?;
        (reaches * 2 >= of && reaches >= now * 2).then_some(BetterEntry { page, reaches, now, of })
    }
}
