//! How much the target lacks links: all that hangs on decisions.

use crate::ids::PageId;
use crate::phrases::PhraseBook;
use crate::site::Figures;

pub(in crate::openings) const NAMES: [&str; 3] =
    ["content links to the target", "click depth of the target", "pages that link to the target"];

/// In the order of [`NAMES`]. O(1).
pub(in crate::openings) fn of(book: &PhraseBook, figures: &Figures, target: PageId) -> [f32; NAMES.len()] {
    let depth = figures.depth.map_or(20.0, |depth| depth.min(20) as f32);
    let to_page = book.anchors().to_page(target) as f32;
    [to_page.ln_1p(), depth, (figures.links_in as f32).ln_1p()]
}
