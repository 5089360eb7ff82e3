//! How readers get to each page: breadth-first search from the pages on which they start.

use std::collections::VecDeque;

use super::snapshot::Snapshot;

/// Stands for the depth of a page that cannot be reached, and for the page before one on which readers start.
const NONE: u32 = u32::MAX;

/// Click depths, and one shortest way to each page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ways {
    depth: Vec<u32>,
    before: Vec<u32>,
}

impl Ways {
    /// O(pages + roads). Of several shortest ways the one over pages with the lowest numbers is kept.
    pub fn of(snapshot: &Snapshot) -> Self {
        let mut ways = Self { depth: vec![NONE; snapshot.len()], before: vec![NONE; snapshot.len()] };
        let mut queue: VecDeque<u32> = snapshot.entries().iter().copied().collect();
        queue.iter().for_each(|entry| ways.depth[*entry as usize] = 0);
        while let Some(page) = queue.pop_front() {
            let next = ways.depth[page as usize] + 1;
            for to in snapshot.roads().ends(page) {
                if ways.depth[*to as usize] == NONE {
                    ways.depth[*to as usize] = next;
                    ways.before[*to as usize] = page;
                    queue.push_back(*to);
                }
            }
        }
        ways
    }

    /// Clicks from where readers start; `None` when the page cannot be reached.
    pub fn depth(&self, page: u32) -> Option<u32> {
        self.depth.get(page as usize).copied().filter(|depth| *depth != NONE)
    }

    /// The page before one on a shortest way; `None` where readers start, and where there is no way. O(1).
    pub fn before(&self, page: u32) -> Option<u32> {
        self.before.get(page as usize).copied().filter(|before| *before != NONE)
    }

    /// A shortest way to a page, from where readers start up to the page itself; empty when there is none. O(its length).
    pub fn to(&self, page: u32) -> Vec<u32> {
        if self.depth(page).is_none() {
            return Vec::new();
        }
        let mut way: Vec<u32> = std::iter::successors(Some(page), |page| self.before(*page)).collect();
        way.reverse();
        way
    }

    /// How many pages there are in each depth, and how many cannot be reached. O(pages).
    pub fn counts(&self) -> (Vec<u32>, u32) {
        let (mut by_depth, mut unreachable) = (Vec::new(), 0);
        for depth in &self.depth {
            if *depth == NONE {
                unreachable += 1;
                continue;
            }
            let at = *depth as usize;
            if by_depth.len() <= at {
                by_depth.resize(at + 1, 0);
            }
            by_depth[at] += 1;
        }
        (by_depth, unreachable)
    }
}
