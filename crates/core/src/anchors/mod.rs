//! What the links of a site say: every anchor text with its links, and what is wrong with it.

mod empty_words;
mod fault;
mod said;
mod site_anchors;
mod tally;

pub use empty_words::says_nothing;
pub use fault::{AnchorFault, AnchorFaultKind, LONGEST_ANCHOR};
pub use said::{LookedLink, SaidLink};
pub use site_anchors::{AnchorPlace, AnchorRow, SiteAnchors};
