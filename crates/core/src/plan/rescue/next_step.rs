//! What an editor can do for a page that no opening helps.

use crate::ids::PageId;
use crate::openings::{Judge, Unwanted};
use crate::site::PageKind;

/// Pages among which one that says the same is looked for.
const MOST_ALIKE: usize = 3;

/// More alike pages are about the very same.
const SAME: f64 = 0.75;

/// A page with fewer words says next to nothing.
const FEW_WORDS: u32 = 40;

/// From so many pages that could be reached over it alone, a page is worth a place in the menu.
const MANY_BEHIND: u32 = 3;

/// The next best step.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum NextStep {
    /// A sentence written on this page, to carry the link.
    Bridge { on: PageId },
    /// To become one with this page, which says the same.
    Merge { with: PageId },
    /// A place in a menu or on an overview page.
    MenuEntry,
    /// To be taken off the site: it says next to nothing.
    Retire,
}

/// The next best step for a page from which `behind` further pages could be reached that are out of reach; `is_near` tells
/// which pages could carry a link to it. O(words of the pages that are alike).
pub fn next_step(
    judge: Judge<'_>,
    unwanted: &impl Unwanted,
    page: PageId,
    behind: u32,
    is_near: impl Fn(PageId) -> bool,
) -> NextStep {
    let Some(facts) = judge.site.page(page) else { return NextStep::Retire };
    // What lists others, or has no text of its own.
    let is_a_list = matches!(facts.kind, PageKind::TermArchive | PageKind::Collection | PageKind::File);
    if is_a_list || behind >= MANY_BEHIND {
        return NextStep::MenuEntry;
    }
    let alike = judge.alike(page, MOST_ALIKE);
    if let Some((with, _)) = alike.iter().find(|(other, likeness)| *likeness >= SAME && is_near(*other)) {
        return NextStep::Merge { with: *with };
    }
    if facts.words < FEW_WORDS {
        return NextStep::Retire;
    }
    match judge.bridges(page, true, unwanted).find(|bridge| is_near(bridge.source)) {
        Some(bridge) => NextStep::Bridge { on: bridge.source },
        None => NextStep::MenuEntry,
    }
}
