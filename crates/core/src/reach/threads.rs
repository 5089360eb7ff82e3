//! Thread pages: what hangs on one link, or on one page.

use rustc_hash::{FxHashMap, FxHashSet};

use super::dominators::Dominators;
use super::roads::Roads;
use super::snapshot::Snapshot;

/// A page to which all ways lead over the same link or the same page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Thread {
    /// The page.
    pub page: u32,
    /// What all ways to it lead over.
    pub over: Over,
    /// How many pages nobody could reach without it: with a link the page itself counts, with a page what lies behind it.
    pub hanging: u32,
}

/// What all ways to a page lead over.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Over {
    /// The link from this page: no other page that can be reached without it leads there.
    Link(u32),
    /// This page, by several links.
    Page(u32),
}

/// The graph as it would be were the threads of some pages cut: what these hang on leads there no more, so that they can be
/// reached only where there is a second way. O(pages + roads).
pub fn cut(snapshot: &Snapshot, pages: &FxHashSet<u32>) -> Snapshot {
    let reversed = snapshot.roads().reversed();
    let dominators = Dominators::of(snapshot, &reversed);
    let over: FxHashMap<u32, u32> = threads(snapshot, &reversed, &dominators)
        .into_iter()
        .filter(|thread| pages.contains(&thread.page))
        .map(|thread| match thread.over {
            Over::Link(from) | Over::Page(from) => (thread.page, from),
        })
        .collect();
    snapshot.without(|from, to| over.get(&to).is_some_and(|over| dominators.dominates(*over, from)))
}

/// The thread pages of a site, those on which most hangs first. Pages on which readers start hang on nothing, and that all
/// ways lead over one of these is no news. O(pages + roads).
pub fn threads(snapshot: &Snapshot, reversed: &Roads, dominators: &Dominators) -> Vec<Thread> {
    let of = |page: u32| {
        let hanging = dominators.size(page);
        if hanging == 0 || snapshot.is_entry(page) {
            return None;
        }
        // Ways from pages behind it have led over it already.
        let leads = |from: &u32| dominators.size(*from) > 0 && !dominators.dominates(page, *from);
        let mut from = reversed.ends(page).iter().copied().filter(leads);
        if let (Some(only), None) = (from.next(), from.next()) {
            return Some(Thread { page, over: Over::Link(only), hanging });
        }
        let over = dominators.above(page).filter(|over| !snapshot.is_entry(*over))?;
        Some(Thread { page, over: Over::Page(over), hanging: dominators.size(over) - 1 })
    };
    let mut found: Vec<Thread> = snapshot.numbers().filter_map(of).collect();
    found.sort_by_key(|thread| (std::cmp::Reverse(thread.hanging), thread.page));
    found
}
