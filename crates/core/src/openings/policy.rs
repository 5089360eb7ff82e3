//! What whoever asks for openings wants and does not want. Nothing here knows how they are judged.

use rustc_hash::FxHashMap;

use crate::document::TextSpan;
use crate::ids::PageId;
use crate::limits::{LinkLimits, ReleaseLoad};

/// Places to look for on a page, which are kept with a site: they are enough for both directions.
pub(super) const MOST_CANDIDATES: usize = 60;

/// How many openings are asked for, and how weak they may be.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Openings to return, the best first.
    pub most: usize,
    /// Pages to read for each name of a target.
    pub most_pages: usize,
    /// Openings whose fit would be smaller without regard to what the target needs are not shown: no find is forced.
    pub least_fit: f64,
}

impl Limits {
    /// Places to look for on a page, from which the openings are chosen; see [`super::Judge::candidates`].
    pub(super) fn most_candidates(self) -> usize {
        MOST_CANDIDATES.max(self.most * 6)
    }
}

impl Default for Limits {
    fn default() -> Self {
        Self { most: 50, most_pages: 1000, least_fit: 7.0 }
    }
}

/// What is not wanted, whatever its fit.
pub trait Unwanted {
    /// No link is wanted from one page to the other.
    fn pair(&self, source: PageId, target: PageId) -> bool;

    /// These words of a page are not to carry a link to the other.
    fn words(&self, source: PageId, target: PageId, words: TextSpan) -> bool;

    /// Links in the tray on words of a page.
    fn planned(&self, source: PageId) -> Vec<TextSpan>;
}

/// Nothing is unwanted.
#[derive(Debug, Clone, Copy)]
pub struct AllWanted;

impl Unwanted for AllWanted {
    fn pair(&self, _: PageId, _: PageId) -> bool {
        false
    }

    fn words(&self, _: PageId, _: PageId, _: TextSpan) -> bool {
        false
    }

    fn planned(&self, _: PageId) -> Vec<TextSpan> {
        Vec::new()
    }
}

/// What holds for all pages of a site.
#[derive(Debug, Clone, Copy, Default)]
pub struct Manners<'m> {
    /// `None` when no limit holds, as for whoever only looks.
    pub limits: Option<LinkLimits>,
    /// How often words, folded, lead to a page in what is taken and not yet out.
    pub worn: Option<&'m FxHashMap<(String, PageId), usize>>,
    /// What the next release brings so far.
    pub load: Option<&'m ReleaseLoad>,
    /// Whether words may carry links to several pages.
    pub words_twice: bool,
}
