//! The answers that are kept of a model, and their shapes.

use strelm_core::audit::{BrokenByPage, FaultyLink, FaultyPlace};
use strelm_core::openings::Opening;
use strelm_core::site::{BetterEntry, PageId};

use super::kept::Kept;
use super::query::PageQuery;
use super::told::AllTold;

/// Counts over the whole site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Totals {
    pub pages: usize,
    pub orphans: usize,
    pub unreachable: usize,
    pub dead_ends: usize,
    /// Links to nothing, and to places that are not there.
    pub broken_links: usize,
    pub broken_fragments: usize,
    pub fresh: usize,
    pub fresh_unlinked: usize,
}

/// Pages of a list on which one link gains most, and how many the list has.
#[derive(Debug, Clone)]
pub struct Gainful {
    pub total: usize,
    pub first: Vec<PageId>,
}

#[derive(Debug, Default)]
pub(crate) struct Answers {
    pub totals: Kept<(), Totals>,
    pub broken: Kept<(), BrokenByPage>,
    pub detours: Kept<(), Vec<FaultyLink>>,
    pub better_entry: Kept<(), Option<BetterEntry>>,
    pub faulty: Kept<(), Vec<FaultyPlace>>,
    pub detoured: Kept<(), Vec<FaultyPlace>>,
    pub best: Kept<(), Vec<PageId>>,
    pub best_openings: Kept<(), Vec<Opening>>,
    pub lists: Kept<PageQuery, Vec<PageId>>,
    pub gainful: Kept<PageQuery, Gainful>,
    pub told: Kept<(), AllTold>,
}
