//! Places where the prose of a page says what names another.

use super::names::NameSource;
use super::trie::PhraseId;
use crate::site::PageId;

/// That a phrase names a page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Naming {
    pub page: PageId,
    /// Where the page has the name from; `None` when only links say so.
    pub source: Option<NameSource>,
    /// Links of the site with these words to this page.
    pub anchors: u32,
}

impl Naming {
    /// How much the phrase names this page, in links: a title counts as one, a part of a name as half.
    pub fn weight(&self) -> f64 {
        let named = match self.source {
            Some(source) if source.is_own() => 1.0,
            Some(_) => 0.5,
            None => 0.0,
        };
        named + f64::from(self.anchors)
    }
}

/// A place where a name of a page stands, unlinked, in the prose of another.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mention {
    pub source: PageId,
    pub phrase: PhraseId,
    /// The page that is named, and how.
    pub naming: Naming,
    /// How much of what the phrase names is this page, from 0 to 1.
    pub share: f64,
    /// How many pages the phrase names.
    pub named: u32,
    /// The first word among the tokens of the source page, and how many there are.
    pub first: usize,
    pub len: usize,
}

impl Mention {
    /// The page that the words may name.
    pub fn target(&self) -> PageId {
        self.naming.page
    }

    /// The number of the token after its last.
    pub fn end(&self) -> usize {
        self.first + self.len
    }
}
