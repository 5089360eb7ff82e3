//! How the site varies the words of its links.

use super::page::{Page, Target};
use crate::phrases::Mention;

pub(super) const NAMES: [&str; 2] =
    ["links of the site in prose, for each page", "share of the words among links to the target"];

/// In the order of [`NAMES`]. O(1).
pub(super) fn of(page: &Page<'_>, mention: &Mention, target: &Target<'_>) -> [f32; NAMES.len()] {
    let share = mention.naming.anchors as f32 / (target.portrait.to_page as f32 + 1.0);
    [page.links_a_page, share]
}
