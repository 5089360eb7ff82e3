//! The graph of a site at one moment, in flat arrays. Whatever walks over all pages does so on this.

use super::roads::{Road, Roads, Strength};
use crate::ids::PageId;

/// Pages are numbered from 0 in the order of their ids; several links from one page to another are one road, as strong as
/// the strongest of them. Memory: 5 bytes for each road, 8 for each page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Snapshot {
    pages: Vec<PageId>,
    entries: Vec<u32>,
    roads: Roads,
}

impl Snapshot {
    /// Of pages in the order of their ids, and those on which readers start; `roads_of` adds the links of a page to others,
    /// in any order. What leads to itself or to no page of these is left out. O(pages + links · log of a page's links).
    pub fn new(
        pages: Vec<PageId>,
        entries: impl IntoIterator<Item = PageId>,
        mut roads_of: impl FnMut(PageId, &mut Vec<(PageId, Strength)>),
    ) -> Self {
        let most = pages.last().map_or(0, |last| last.0 as usize + 1);
        let mut numbers = vec![u32::MAX; most];
        for (number, page) in (0..).zip(&pages) {
            numbers[page.0 as usize] = number;
        }
        let number_of = |page: PageId| numbers.get(page.0 as usize).copied().filter(|number| *number != u32::MAX);
        let mut links = Vec::new();
        let roads = Roads::new(pages.len(), |from, roads| {
            links.clear();
            roads_of(pages[from as usize], &mut links);
            let found =
                links.iter().filter_map(|(to, strength)| Some(Road { to: number_of(*to)?, strength: *strength }));
            roads.extend(found.filter(|road| road.to != from));
        });
        let mut entries: Vec<u32> = entries.into_iter().filter_map(number_of).collect();
        entries.sort_unstable();
        entries.dedup();
        Self { pages, entries, roads }
    }

    /// The same with further roads from one page to another, as strong as links in content. O(pages + roads).
    pub fn with(&self, added: impl IntoIterator<Item = (u32, u32)>) -> Self {
        let mut added: Vec<(u32, u32)> = added.into_iter().filter(|(from, to)| from != to).collect();
        added.sort_unstable();
        let mut added = added.into_iter().peekable();
        let roads = Roads::new(self.pages.len(), |from, roads| {
            roads.extend(self.roads.of(from));
            while let Some((_, to)) = added.next_if(|(source, _)| *source == from) {
                roads.push(Road { to, strength: Strength::CONTENT });
            }
        });
        Self { pages: self.pages.clone(), entries: self.entries.clone(), roads }
    }

    /// The same without some roads, told by the pages on their ends. O(pages + roads).
    #[must_use]
    pub fn without(&self, is_gone: impl Fn(u32, u32) -> bool) -> Self {
        let roads = Roads::new(self.pages.len(), |from, roads| {
            roads.extend(self.roads.of(from).filter(|road| !is_gone(from, road.to)));
        });
        Self { pages: self.pages.clone(), entries: self.entries.clone(), roads }
    }

    /// How many pages there are.
    pub fn len(&self) -> usize {
        self.pages.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.pages.is_empty()
    }

    /// All numbers of pages.
    pub fn numbers(&self) -> std::ops::Range<u32> {
        0..u32::try_from(self.pages.len()).unwrap_or(u32::MAX)
    }

    /// The page with a number. O(1).
    pub fn page(&self, number: u32) -> Option<PageId> {
        self.pages.get(number as usize).copied()
    }

    /// The number of a page. O(log pages).
    pub fn number_of(&self, page: PageId) -> Option<u32> {
        self.pages.binary_search(&page).ok().and_then(|at| u32::try_from(at).ok())
    }

    /// The pages on which readers start, in the order of their numbers.
    pub fn entries(&self) -> &[u32] {
        &self.entries
    }

    /// Whether readers start on a page.
    pub fn is_entry(&self, number: u32) -> bool {
        self.entries.binary_search(&number).is_ok()
    }

    /// The roads, by the page from which they lead.
    pub fn roads(&self) -> &Roads {
        &self.roads
    }
}
