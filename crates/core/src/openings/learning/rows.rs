//! The places of a page of which links were hidden, and which of them their author linked.

use super::hide::HiddenLink;
use crate::openings::features::{Features, judge};
use crate::phrases::PhraseBook;
use crate::site::{PageId, Site};

#[derive(Debug, Clone)]
pub struct Row {
    pub source: PageId,
    pub target: PageId,
    /// The first of its words among those of the page.
    pub first: usize,
    pub features: Features,
    /// Whether the author linked these very words.
    pub is_link: bool,
    /// Whether the author linked to the target from this page at all.
    pub is_pair: bool,
}

/// All places of a page for targets to which its text does not lead, in text order; `hidden` are the links that are not
/// there any more. O(what judging costs).
pub fn rows_of(site: &Site, book: &PhraseBook, source: PageId, hidden: &[HiddenLink]) -> Vec<Row> {
    let is_open = |target| !book.anchors().is_linked_in_prose(source, target);
    let Some(prose) = book.prose(source) else { return Vec::new() };
    let row = |judged: crate::openings::Judged| {
        let mention = &judged.mention;
        let words = prose.words(mention.first, mention.end());
        let mut of_pair = hidden.iter().filter(|link| link.target == mention.target()).peekable();
        let is_pair = of_pair.peek().is_some();
        Row {
            source,
            target: mention.target(),
            first: mention.first,
            features: judged.features,
            is_link: of_pair.any(|link| link.words.overlaps(words)),
            is_pair,
        }
    };
    judge(site, book, source, is_open).into_iter().map(row).collect()
}
