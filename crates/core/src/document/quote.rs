//! A sentence with some of its words marked: by it words are known again on a later version of their page.

use super::span::TextSpan;
use super::text::fold_space;

/// Words with the rest of their sentence, white space folded: what an editor saw when deciding.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Quote<'q> {
    pub before: &'q str,
    pub anchor: &'q str,
    pub after: &'q str,
}

impl Quote<'_> {
    /// The sentence as running text.
    pub fn folded(&self) -> String {
        fold_space(&format!("{}{}{}", self.before, self.anchor, self.after))
    }
}

/// A quote that is kept.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct QuotedSentence {
    pub before: String,
    /// The words that carry the link, or are to.
    pub anchor: String,
    pub after: String,
}

impl QuotedSentence {
    /// A sentence of `text` before, on and after some of its words. White space is folded, but kept as one space beside
    /// the words. O(length of the sentence).
    pub fn of(text: &str, sentence: TextSpan, words: TextSpan) -> Self {
        let piece = |start: usize, end: usize| text.get(start..end).unwrap_or_default();
        let (before, after) = (piece(sentence.start, words.start), piece(words.end, sentence.end));
        let space = |is: bool| if is { " " } else { "" };
        Self {
            before: format!("{}{}", fold_space(before), space(before.ends_with(char::is_whitespace))),
            anchor: fold_space(piece(words.start, words.end)),
            after: format!("{}{}", space(after.starts_with(char::is_whitespace)), fold_space(after)),
        }
    }

    /// Words without a sentence, such as what a picture says.
    pub fn of_words(anchor: String) -> Self {
        Self { anchor, ..Self::default() }
    }

    /// The three parts as borrowed text.
    pub fn as_quote(&self) -> Quote<'_> {
        Quote { before: &self.before, anchor: &self.anchor, after: &self.after }
    }

    /// The sentence as it is read.
    pub fn text(&self) -> String {
        format!("{}{}{}", self.before, self.anchor, self.after)
    }
}
