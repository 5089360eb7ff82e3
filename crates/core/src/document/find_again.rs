//! Finding words again on a newer version of their page: they are where their sentence is.

use thiserror::Error;

use super::put_link::Refusal;
use super::quote::Quote;
use super::span::{SourceSpan, TextSpan};
use super::text::fold_space;
use super::{Document, LinkTarget};

/// Why words could not be found again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum Lost {
    #[error("their sentence is no longer on the page")]
    Sentence,
    #[error("{0}")]
    Refused(#[from] Refusal),
}

impl Document {
    /// The words of a quote on this version of the page, if its whole sentence still stands in one block and the words
    /// may carry a link. Of several such sentences the one nearest to text offset `near` counts. O(n).
    ///
    /// # Errors
    /// [`Lost`] says why there are none.
    pub fn find_again(&self, quote: &Quote<'_>, near: usize) -> Result<TextSpan, Lost> {
        let sentence = quote.folded();
        let lead = fold_space(quote.before).len()
            + usize::from(quote.before.ends_with(' ') && !quote.before.trim().is_empty());
        let anchor = fold_space(quote.anchor);
        if sentence.is_empty() || sentence.get(lead..lead + anchor.len()) != Some(anchor.as_str()) {
            return Err(Lost::Sentence);
        }
        let mut found: Vec<TextSpan> = Vec::new();
        for block in self.blocks() {
            let folded = Folded::of(self.text().slice(block.text), block.text.start);
            let starts = folded.text.match_indices(&sentence).map(|(at, _)| at + lead);
            found.extend(starts.filter_map(|start| folded.span(start, start + anchor.len())));
        }
        found.sort_by_key(|words| words.start.abs_diff(near));
        let mut refused = Lost::Sentence;
        for words in found {
            match self.may_link(words) {
                Ok(SourceSpan { .. }) => return Ok(words),
                Err(why) if refused == Lost::Sentence => refused = Lost::Refused(why),
                Err(_) => {}
            }
        }
        Err(refused)
    }

    /// [`Document::find_again`] and [`Document::put_link`] in one.
    ///
    /// # Errors
    /// As [`Document::find_again`].
    pub fn put_link_again(&self, quote: &Quote<'_>, near: usize, target: &LinkTarget) -> Result<super::Edit, Lost> {
        Ok(self.put_link(self.find_again(quote, near)?, target)?)
    }
}

/// Text with white space folded, and for each of its bytes the place in the text that it came from.
struct Folded {
    text: String,
    from: Vec<usize>,
    end: usize,
}

impl Folded {
    fn of(text: &str, offset: usize) -> Self {
        let mut folded = Self {
            text: String::with_capacity(text.len()),
            from: Vec::with_capacity(text.len()),
            end: offset + text.len(),
        };
        let mut space_at = None;
        for (at, c) in text.char_indices() {
            if c.is_whitespace() {
                space_at.get_or_insert(at);
                continue;
            }
            if let Some(space) = space_at.take().filter(|_| !folded.text.is_empty()) {
                folded.text.push(' ');
                folded.from.push(offset + space);
            }
            folded.text.push(c);
            folded.from.extend((0..c.len_utf8()).map(|byte| offset + at + byte));
        }
        folded
    }

    /// From a stretch of the folded text to the text that it stands for.
    fn span(&self, start: usize, end: usize) -> Option<TextSpan> {
        let last = *self.from.get(end.checked_sub(1)?)?;
        Some(TextSpan::new(*self.from.get(start)?, (last + 1).min(self.end)))
    }
}
