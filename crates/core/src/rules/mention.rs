//! A place where a phrase of a rule stands.

use crate::document::TextSpan;

/// Words of a page that are a phrase of a rule.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Mention {
    /// Counts the rules of the set, and the phrases of the rule.
    pub rule: usize,
    pub phrase: usize,
    /// In the text of the page.
    pub words: TextSpan,
    /// Which words of the page's content these are: from the first on, up to the one at `end`.
    pub first: usize,
    pub end: usize,
}
