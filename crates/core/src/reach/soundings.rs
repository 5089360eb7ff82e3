//! All that is worked out of a snapshot, together: it takes a while on a large site and is kept for as long as the graph
//! stays as it is.

use super::dominators::Dominators;
use super::equity::{Equity, EquityRules};
use super::islands::{Island, islands};
use super::roads::Roads;
use super::snapshot::Snapshot;
use super::threads::{Thread, threads};
use super::ways::Ways;
use crate::ids::PageId;

/// Stands for no thread and no island.
const NONE: u32 = u32::MAX;

/// The graph of a site at one moment, and what it tells of each page.
#[derive(Debug, Clone)]
pub struct Soundings {
    snapshot: Snapshot,
    reversed: Roads,
    ways: Ways,
    equity: Equity,
    threads: Vec<Thread>,
    islands: Vec<Island>,
    /// By page: its place among the threads and the islands.
    thread_of: Vec<u32>,
    island_of: Vec<u32>,
    /// By page: how many pages nobody could reach without it, itself included; 0 where it cannot be reached.
    behind: Vec<u32>,
}

impl Soundings {
    /// O((pages + roads) · rounds of [`Equity::of`]).
    pub fn of(snapshot: Snapshot, rules: EquityRules) -> Self {
        let reversed = snapshot.roads().reversed();
        let ways = Ways::of(&snapshot);
        let dominators = Dominators::of(&snapshot, &reversed);
        let threads = threads(&snapshot, &reversed, &dominators);
        let islands = islands(&snapshot, &ways);
        let equity = Equity::of(&snapshot, &reversed, rules);
        let behind = snapshot.numbers().map(|page| dominators.size(page)).collect();
        let (mut thread_of, mut island_of) = (vec![NONE; snapshot.len()], vec![NONE; snapshot.len()]);
        for (at, thread) in (0..).zip(&threads) {
            thread_of[thread.page as usize] = at;
        }
        for (at, island) in (0..).zip(&islands) {
            island.pages.iter().for_each(|page| island_of[*page as usize] = at);
        }
        Self { snapshot, reversed, ways, equity, threads, islands, thread_of, island_of, behind }
    }

    /// The graph.
    pub const fn snapshot(&self) -> &Snapshot {
        &self.snapshot
    }

    /// Its roads by the page to which they lead.
    pub const fn reversed(&self) -> &Roads {
        &self.reversed
    }

    /// Click depths and shortest ways.
    pub const fn ways(&self) -> &Ways {
        &self.ways
    }

    /// Link equity.
    pub const fn equity(&self) -> &Equity {
        &self.equity
    }

    /// All thread pages, those on which most hangs first.
    pub fn threads(&self) -> &[Thread] {
        &self.threads
    }

    /// All islands, the largest first.
    pub fn islands(&self) -> &[Island] {
        &self.islands
    }

    /// Clicks to a page; `None` when it cannot be reached or is not in the graph. O(log pages), as all that follows.
    pub fn depth(&self, page: PageId) -> Option<u32> {
        self.ways.depth(self.snapshot.number_of(page)?)
    }

    /// The share of a page in the equity of the site; `None` when it is not in the graph.
    pub fn share(&self, page: PageId) -> Option<f64> {
        Some(self.equity.share(self.snapshot.number_of(page)?))
    }

    /// The share of a page beside that of the average page, which is 1.
    pub fn beside_average(&self, page: PageId) -> Option<f64> {
        Some(self.share(page)? * self.snapshot.len() as f64)
    }

    /// What a page hangs on, where it is a thread page.
    pub fn thread(&self, page: PageId) -> Option<&Thread> {
        let at = self.thread_of.get(self.snapshot.number_of(page)? as usize)?;
        self.threads.get(*at as usize)
    }

    /// The island of a page that is on one.
    pub fn island(&self, page: PageId) -> Option<&Island> {
        let at = self.island_of.get(self.snapshot.number_of(page)? as usize)?;
        self.islands.get(*at as usize)
    }

    /// How many other pages nobody could reach without a page.
    pub fn hanging(&self, page: PageId) -> u32 {
        let number = self.snapshot.number_of(page).map_or(usize::MAX, |number| number as usize);
        self.behind.get(number).map_or(0, |size| size.saturating_sub(1))
    }

    /// About how many bytes it takes. O(islands).
    pub fn weight(&self) -> usize {
        let roads = self.snapshot.roads().len() * 2 * 5;
        let islands: usize = self.islands.iter().map(|island| island.pages.len() * 4).sum();
        roads + self.snapshot.len() * 64 + self.threads.len() * 16 + islands
    }
}
