//! Click depth: breadth-first search from the entry page, grown when links are added.

use std::collections::VecDeque;

use crate::site::PageId;

/// Where a reader can go from a page.
pub trait Roads {
    /// Calls `visit` with each page that `from` leads to; the same page may come more than once.
    fn each_road(&self, from: PageId, visit: &mut dyn FnMut(PageId));
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

    /// Says that `page` can be reached in `depth` clicks and that its roads may be new, and follows what that improves.
    ///
    /// From nothing this is a plain breadth-first search, O(pages + links). Later it costs O(links of the pages whose
    /// depth becomes smaller). Links that went away need a search from nothing.
    pub fn relax(&mut self, roads: &impl Roads, page: PageId, depth: u32) {
        self.improve(page, depth);
        let mut queue = VecDeque::from([page]);
        while let Some(page) = queue.pop_front() {
            let Some(next) = self.of(page).map(|depth| depth + 1) else { continue };
            roads.each_road(page, &mut |to| {
                if self.improve(to, next) {
                    queue.push_back(to);
                }
            });
        }
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
