//! How links lead from one group of pages to another, such as from category to category.

use rustc_hash::FxHashMap;

use super::roads::Road;
use super::snapshot::Snapshot;

/// Links between groups of pages.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Flow {
    /// From group to group, in their order.
    pub cells: Vec<FlowCell>,
    /// Pages that link, and whose links all lead out of their group, in the order of their numbers.
    pub strays: Vec<u32>,
}

/// The links from one group to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct FlowCell {
    /// The group from which they lead.
    pub from: u32,
    /// The group to which they lead.
    pub to: u32,
    /// How many pairs of pages they connect.
    pub links: u32,
}

impl Flow {
    /// `counts` tells which roads are links here; `group` gives the group of a page by its number, and pages without one have
    /// no part in it. O(pages + roads).
    pub fn of(snapshot: &Snapshot, counts: impl Fn(Road) -> bool, group: impl Fn(u32) -> Option<u32>) -> Self {
        let groups: Vec<Option<u32>> = snapshot.numbers().map(group).collect();
        let mut links_of: FxHashMap<(u32, u32), u32> = FxHashMap::default();
        let mut strays = Vec::new();
        for (page, from) in snapshot.numbers().zip(&groups) {
            let Some(from) = *from else { continue };
            let (mut links, mut inside) = (0u32, 0u32);
            let roads = snapshot.roads().of(page).filter(|road| counts(*road));
            for to in roads.filter_map(|road| groups[road.to as usize]) {
                *links_of.entry((from, to)).or_default() += 1;
                links += 1;
                inside += u32::from(to == from);
            }
            if links > 0 && inside == 0 {
                strays.push(page);
            }
        }
        let mut cells: Vec<FlowCell> =
            links_of.into_iter().map(|((from, to), links)| FlowCell { from, to, links }).collect();
        cells.sort_unstable();
        Self { cells, strays }
    }

    /// Of the links from a group, how many lead to pages of the same, and how many there are.
    pub fn inside(&self, group: u32) -> (u32, u32) {
        let from = self.cells.iter().filter(|cell| cell.from == group);
        from.fold((0, 0), |(inside, all), cell| {
            (inside + if cell.to == group { cell.links } else { 0 }, all + cell.links)
        })
    }
}
