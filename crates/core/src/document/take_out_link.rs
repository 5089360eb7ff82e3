//! Taking a link off its words: the inverse of putting one there, on whatever version of the page.

use super::edit::{Edit, Splice};
use super::link::Manner;
use super::put_link::Refusal;
use super::span::SourceSpan;
use super::text::fold_space;
use super::{Document, Format, Quote};

/// A link that was looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FoundLink {
    /// Counts [`Document::links`].
    pub ordinal: usize,
    /// Whether it stands in the sentence that was named.
    pub in_sentence: bool,
}

impl Document {
    /// The edit that removes the two tags of a link and nothing else. A definition of Markdown to which no other link
    /// refers goes with it.
    ///
    /// `ordinal` counts [`Document::links`]. O(log n + elements inside); O(n) for Markdown's own links.
    ///
    /// # Errors
    /// [`Refusal::NoEnd`] when the link has no end tag of its own, [`Refusal::CrossesMarkup`] when its tags and those of
    /// other elements cross, so that a browser would show the rest in another way.
    pub fn take_out_link(&self, ordinal: usize) -> Result<Edit, Refusal> {
        let link = self.links().get(ordinal).ok_or(Refusal::NotThere)?;
        let end = link.end_tag.ok_or(Refusal::NoEnd)?;
        if link.manner == Manner::Autolink {
            return Err(Refusal::AddressIsText);
        }
        let inner = SourceSpan::new(link.start_tag.end, end.start);
        if link.mended || self.tree().has_stray_in(inner) || self.tree().has_unended_in(inner) {
            return Err(Refusal::CrossesMarkup);
        }
        if self.format() == Format::Html && self.would_join(link.start_tag, end) {
            return Err(Refusal::CrossesMarkup);
        }
        let nothing = |at| Splice { at, with: String::new() };
        let mut splices = vec![nothing(link.start_tag), nothing(end)];
        splices.extend(self.lone_definition(ordinal).map(nothing));
        let edit = Edit::new(self.hash(), splices).map_err(|_| Refusal::CrossesMarkup)?;
        if self.format() == Format::Html {
            return Ok(edit);
        }
        let after = edit.apply(self.source()).map(Document::from_markdown).map_err(|_| Refusal::Untraceable)?;
        let same = after.text().as_str() == self.text().as_str() && after.links().len() + 1 == self.links().len();
        same.then_some(edit).ok_or(Refusal::ChangesMore)
    }

    /// Whether what two tags keep apart would become markup without them, as `<` and `b` would.
    fn would_join(&self, start_tag: SourceSpan, end_tag: SourceSpan) -> bool {
        let piece = |start: usize, end: usize| self.source().get(start..end).unwrap_or_default();
        let near = self.source().floor_char_boundary(start_tag.start.saturating_sub(LONGEST_REFERENCE));
        let before = piece(near, start_tag.start);
        let inner = piece(start_tag.end, end_tag.start);
        let after = self.source().get(end_tag.end..).unwrap_or_default().chars().next();
        joins(before, inner.chars().next().or(after)) || joins(&[before, inner].concat(), after)
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

/// No name of a character reference is longer, with its marks.
const LONGEST_REFERENCE: usize = 40;

/// Whether the end of some text and what follows it make a tag or a character reference together.
fn joins(text: &str, next: Option<char>) -> bool {
    let Some(next) = next else { return false };
    let begins_tag = text.ends_with('<') && (next.is_ascii_alphabetic() || matches!(next, '/' | '!' | '?'));
    let name = text.trim_end_matches(|c: char| c.is_ascii_alphanumeric() || c == '#');
    begins_tag || name.ends_with('&') && (next.is_ascii_alphanumeric() || matches!(next, '#' | ';'))
}
