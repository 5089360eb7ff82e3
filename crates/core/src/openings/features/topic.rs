//! What the page and the block have to do with what the target is about.

use super::page::{Page, Pair, Target};
use crate::logarithms::ln_1p;

pub(super) const NAMES: [&str; 16] = [
    "similarity of block and target",
    "similarity of page and target",
    "rank of the target by similarity of page",
    "rank of the target by similarity of block",
    "target links here",
    "same folder",
    "share of links to the target from this folder",
    "pages linked here that link to the target",
    "mentions of the target on the page",
    "names of the target on the page",
    "similarity beside the best of the page",
    "share of the folder's pages among linking ones",
    "in a list of links here",
    "title words of the target on the page",
    "title words of the target in the block",
    // What links tell counts where there are some; parts do not see each other's numbers.
    "links of the site in prose",
];

/// In the order of [`NAMES`]. O(1).
pub(super) fn of(page: &Page<'_>, target: &Target<'_>, pair: Pair) -> [f32; NAMES.len()] {
    [
        pair.similarity,
        target.similarity,
        target.rank,
        pair.rank,
        f32::from(u8::from(target.links_back)),
        target.folder,
        target.from_folder,
        target.through,
        ln_1p(target.named.mentions as usize),
        target.named.names.len() as f32,
        if page.best_similarity > 0.0 { target.similarity / page.best_similarity } else { 0.0 },
        target.folder_share,
        f32::from(u8::from(target.is_listed)),
        target.title_on_page,
        pair.title,
        page.links_a_page,
    ]
}
