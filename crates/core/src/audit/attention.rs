//! Which pages lack something, and where an hour pays most.

use crate::openings::Tally;
use crate::site::{Figures, PageFacts, PageKind, Site};

/// Clicks from the entry page from which on a page is deep, and lacks links however many lead there.
const DEEP: u32 = 4;
const LACK_OF_DEEP: f64 = 0.4;

/// What a page can lack.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lacking {
    /// No page links there: an orphan. Entry pages need no link to be found.
    LinksIn,
    /// No way leads there from the entry pages.
    AWayThere,
    /// A dead end: a page with text whose content leads to no other page.
    LinksOut,
}

impl Lacking {
    /// Whether a page lacks it. O(1).
    pub fn is_true_of(self, site: &Site, page: &PageFacts, figures: &Figures) -> bool {
        match self {
            Self::LinksIn => figures.is_orphan() && !site.is_entry(page.id),
            Self::AWayThere => figures.depth.is_none(),
            Self::LinksOut => figures.links_out == 0 && page.words > 0 && page.kind != PageKind::File,
        }
    }
}

/// How much an hour on a page pays, 0 to 100: how badly it lacks links, times the chance that there are good openings for
/// them; less for pages with little to say. O(1).
pub fn attention(site: &Site, page: &PageFacts, figures: &Figures, tally: &Tally) -> f64 {
    if page.kind == PageKind::File || site.is_entry(page.id) {
        return 0.0;
    }
    let is_deep = figures.depth.is_some_and(|depth| depth >= DEEP);
    let lack = f64::from(figures.lack()).max(if is_deep { LACK_OF_DEEP } else { 0.0 });
    let dead_end = if figures.links_out == 0 { 0.15 * tally.best_out.unwrap_or_default() / 100.0 } else { 0.0 };
    let says = 0.4 + 0.6 * (f64::from(page.words) / 300.0).min(1.0);
    100.0 * says * (lack * tally.hope_in + dead_end).min(1.0)
}
