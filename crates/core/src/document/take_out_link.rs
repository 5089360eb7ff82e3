//! Taking a link off its words: the inverse of putting one there, on whatever version of the page.

use super::edit::{Edit, EditError, Splice};
use super::text::fold_space;
use super::{Document, Quote};

/// A link that was looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FoundLink {
    /// Counts [`Document::links`].
    pub ordinal: usize,
    /// Whether it stands in the sentence that was named.
    pub in_sentence: bool,
}

impl Document {
    /// The edit that removes the two tags of a link and nothing else; `None` when the link has no end tag of its own.
    ///
    /// `ordinal` counts [`Document::links`]. O(1).
    ///
    /// # Errors
    /// [`EditError`] when the tags overlap, which no link that was read has.
    pub fn take_out_link(&self, ordinal: usize) -> Option<Result<Edit, EditError>> {
        let link = self.links().get(ordinal)?;
        let nothing = |at| Splice { at, with: String::new() };
        Some(Edit::new(self.hash(), vec![nothing(link.start_tag), nothing(link.end_tag?)]))
    }

    /// The link to `href` on the words of a quote. Where several are alike, one in the very sentence of the quote counts
    /// before others. O(n).
    pub fn find_link(&self, quote: &Quote<'_>, href: &str) -> Option<FoundLink> {
        let anchor = fold_space(quote.anchor);
        let sentence = quote.folded();
        let alike = |(_, link): &(usize, &super::Link)| {
            link.href == href && link.end_tag.is_some() && fold_space(self.text().slice(link.text)) == anchor
        };
        let in_sentence = |link: &super::Link| {
            let block = link.block.and_then(|id| self.blocks().get(id.0 as usize));
            block.is_some_and(|block| fold_space(self.text().slice(block.text)).contains(&sentence))
        };
        let mut found: Vec<_> = self.links().iter().enumerate().filter(alike).collect();
        found.sort_by_key(|(ordinal, link)| (!in_sentence(link), *ordinal));
        found.first().map(|(ordinal, link)| FoundLink { ordinal: *ordinal, in_sentence: in_sentence(link) })
    }
}
