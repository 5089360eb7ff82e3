//! Words after Unicode's UAX 29.

use unicode_segmentation::UnicodeSegmentation;

use crate::document::TextSpan;

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Word<'a> {
    pub text: &'a str,
    /// Place in the text that was given to [`words`].
    pub span: TextSpan,
    /// Whether only a space, a hyphen or a line end of the source stands between the word before and this one, so
    /// that both may belong to one phrase.
    pub joined: bool,
}

/// The words of one block of text, in order. O(n).
pub fn words(text: &str) -> impl Iterator<Item = Word<'_>> {
    let mut before = None;
    text.unicode_word_indices().map(move |(start, word)| {
        let joined = before.is_some_and(|end: usize| joins(&text[end..start]));
        before = Some(start + word.len());
        Word { text: word, span: TextSpan::new(start, start + word.len()), joined }
    })
}

fn joins(between: &str) -> bool {
    let mut hyphens = 0;
    let fits = between.chars().all(|c| match c {
        '-' | '\u{2010}' | '\u{2011}' => {
            hyphens += 1;
            hyphens == 1
        }
        c => c.is_whitespace(),
    });
    fits && !between.is_empty()
}
