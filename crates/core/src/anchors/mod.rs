//! What the links of a site say: every anchor text with its links, and what is wrong with it.

mod empty_words;
mod fault;
mod texts;

pub use empty_words::says_nothing;
pub use fault::{AnchorFault, LONGEST_ANCHOR};
pub use texts::{AnchorRow, AnchorTexts, SaidLink};
