//! Groups of pages that link among themselves and cannot be reached.

use super::components::strong_components;
use super::snapshot::Snapshot;
use super::ways::Ways;

/// Of an island with more pages than this to which no other page of it leads, only so many are tried.
const MOST_TRIED: usize = 64;

/// Pages that cannot be reached and hang together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Island {
    /// In the order of their numbers; two at least.
    pub pages: Vec<u32>,
    /// The page whose rescue would open most of the island.
    pub gate: u32,
    /// The pages of it that would then be within reach, the gate included, in the order of their numbers.
    pub opened: Vec<u32>,
}

/// The islands of a site, the largest first. O(pages + roads), and for each island at most 64 walks over it.
///
/// Pages hang together when links between unreachable pages connect them, in whatever direction. Of the pages from which
/// most of an island can be reached, one is in a strong component to which no other leads, so only these are tried.
pub fn islands(snapshot: &Snapshot, ways: &Ways) -> Vec<Island> {
    let is_lost = |page: u32| ways.depth(page).is_none();
    let mut groups = Groups::of(snapshot.len());
    for page in snapshot.numbers().filter(|page| is_lost(*page)) {
        snapshot.roads().ends(page).iter().filter(|to| is_lost(**to)).for_each(|to| groups.join(page, *to));
    }
    let mut by_first: Vec<Vec<u32>> = vec![Vec::new(); snapshot.len()];
    for page in snapshot.numbers().filter(|page| is_lost(*page)) {
        by_first[groups.first(page) as usize].push(page);
    }
    let (component, count) = strong_components(snapshot.roads(), is_lost);
    let mut is_led_to = vec![false; count];
    for page in snapshot.numbers().filter(|page| is_lost(*page)) {
        for to in snapshot.roads().ends(page) {
            if is_lost(*to) && component[*to as usize] != component[page as usize] {
                is_led_to[component[*to as usize] as usize] = true;
            }
        }
    }
    let mut walk = Walk::of(snapshot.len());
    let mut found: Vec<Island> = by_first
        .into_iter()
        .filter(|pages| pages.len() > 1)
        .map(|pages| {
            let mut tried: Vec<u32> = Vec::new();
            let mut known: Vec<u32> = Vec::new();
            for page in &pages {
                let of = component[*page as usize];
                if !is_led_to[of as usize] && !known.contains(&of) && tried.len() < MOST_TRIED {
                    known.push(of);
                    tried.push(*page);
                }
            }
            let opens = |page: u32| (walk.opened(snapshot, page, is_lost).len(), std::cmp::Reverse(page));
            let gate = tried.into_iter().map(opens).max().map_or(pages[0], |(_, page)| page.0);
            let mut opened = walk.opened(snapshot, gate, is_lost).to_vec();
            opened.sort_unstable();
            Island { gate, opened, pages }
        })
        .collect();
    found.sort_by_key(|island| (std::cmp::Reverse(island.pages.len()), island.pages[0]));
    found
}

/// Which pages hang together: union by the lowest number, with halved paths.
struct Groups(Vec<u32>);

impl Groups {
    fn of(pages: usize) -> Self {
        Self((0..u32::try_from(pages).unwrap_or(u32::MAX)).collect())
    }

    fn first(&mut self, mut page: u32) -> u32 {
        while self.0[page as usize] != page {
            self.0[page as usize] = self.0[self.0[page as usize] as usize];
            page = self.0[page as usize];
        }
        page
    }

    fn join(&mut self, one: u32, other: u32) {
        let (one, other) = (self.first(one), self.first(other));
        self.0[one.max(other) as usize] = one.min(other);
    }
}

/// Walks over parts of the graph, one after the other.
struct Walk {
    seen: Vec<u32>,
    walks: u32,
    queue: Vec<u32>,
}

impl Walk {
    fn of(pages: usize) -> Self {
        Self { seen: vec![0; pages], walks: 0, queue: Vec::new() }
    }

    /// The lost pages that can be reached from one, itself first.
    fn opened(&mut self, snapshot: &Snapshot, from: u32, is_lost: impl Fn(u32) -> bool) -> &[u32] {
        self.walks += 1;
        self.seen[from as usize] = self.walks;
        self.queue.clear();
        self.queue.push(from);
        let mut next = 0;
        while let Some(page) = self.queue.get(next).copied() {
            next += 1;
            for to in snapshot.roads().ends(page) {
                if is_lost(*to) && self.seen[*to as usize] != self.walks {
                    self.seen[*to as usize] = self.walks;
                    self.queue.push(*to);
                }
            }
        }
        &self.queue
    }
}
