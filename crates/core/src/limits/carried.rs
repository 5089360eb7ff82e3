//! What the content of a page carries already.

use crate::document::{Document, Region, TextSpan};

/// Words and links of a page's content, counted alike for whoever looks for openings and for whoever takes them.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Carried {
    pub words: usize,
    /// The text of each link, empty for a picture: those that exist in text order, then those that come.
    pub links: Vec<TextSpan>,
}

impl Carried {
    /// O(n).
    pub fn of(document: &Document) -> Self {
        let content = document.blocks().iter().filter(|block| block.region == Region::Content);
        let links = document.links().iter().filter(|link| link.region == Region::Content);
        Self {
            words: content.map(|block| crate::language::words(document.text().slice(block.text)).count()).sum(),
            links: links.map(|link| link.text).collect(),
        }
    }

    /// How many links stand in a sentence. O(links).
    pub fn links_in(&self, sentence: TextSpan) -> usize {
        self.links.iter().filter(|link| link.overlaps(sentence)).count()
    }
}
