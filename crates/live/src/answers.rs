//! The answers that are kept of a model, and their shapes.

use std::sync::Arc;

use strelm_core::anchors::AnchorRow;
use strelm_core::audit::{BrokenByPage, FaultyLink, FaultyPlace, ReachEdit};
use strelm_core::destinations::Destinations;
use strelm_core::openings::Opening;
use strelm_core::reach::Soundings;
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

/// The soundings of a moment as far as they are known.
#[derive(Debug, Clone)]
pub struct Sounded {
    /// `None` when none were worked out yet.
    pub soundings: Option<Arc<Soundings>>,
    /// Whether nothing changed since.
    pub is_fresh: bool,
}

/// What soundings were worked out of: the graph, and how equity is counted.
pub(crate) type SoundingsRevision = (u64, u64);

/// The soundings of one moment.
#[derive(Debug, Clone)]
pub(crate) struct KeptSoundings {
    pub soundings: Arc<Soundings>,
    pub of: SoundingsRevision,
}

/// Answers about the graph as a whole. They are kept as they are sent: on a large site each looks at all pages.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WholeAnswer {
    Chart,
    Hanging,
    Equity,
    /// By kinds rather than by categories, and whether what stands around the text counts.
    Flow {
        by_kind: bool,
        around: bool,
    },
}

/// The edits of the latest reading by which pages came within reach, and by which they were lost; those of most pages first.
#[derive(Debug, Clone, Default)]
pub struct ReachEdits {
    pub came: Vec<(ReachEdit, Vec<PageId>)>,
    pub lost: Vec<(ReachEdit, Vec<PageId>)>,
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
    pub anchors: Kept<(), Vec<AnchorRow>>,
    pub destinations: Kept<(), Destinations>,
    pub whole: Kept<WholeAnswer, Vec<u8>>,
    pub reach_edits: Kept<(), ReachEdits>,
}
