//! Words after Unicode's UAX 29.

use unicode_segmentation::UnicodeSegmentation;

use crate::document::TextSpan;

/// A word of a text, as it is written there.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Word<'a> {
    pub text: &'a str,
    /// Place in the text that was given to [`words`].
    pub span: TextSpan,
    /// Whether only a space, a hyphen or a line end of the source stands between the word before and this one, so
    /// that both may belong to one phrase.
    pub joined: bool,
}

/// The words of one block of text, in order. What dots hold together, such as `os.path`, is several words. O(n).
pub fn words(text: &str) -> impl Iterator<Item = Word<'_>> {
    let mut before = None;
    let pieces = text.unicode_word_indices().flat_map(|(start, word)| {
        let mut at = start;
        word.split('.').map(move |piece| {
            let here = at;
            at += piece.len() + 1;
            (here, piece)
        })
    });
    pieces.filter(|(_, piece)| !piece.is_empty()).map(move |(start, word)| {
        let joined = before.is_some_and(|end: usize| joins(&text[end..start]));
        before = Some(start + word.len());
        Word { text: word, span: TextSpan::new(start, start + word.len()), joined }
    })
}

/// A space, a line end of the source, or a mark that holds the pieces of one name together, as in TCP/IP, R&D, a::b.
/// Nothing at all stands between the words of scripts without spaces.
fn joins(between: &str) -> bool {
    let marks = between.chars().filter(|c| !c.is_whitespace()).count();
    let is_mark = |c: char| "-\u{2010}\u{2011}/&.:+_'\u{2019}@#".contains(c);
    match marks {
        0 => true,
        1 => between.chars().all(is_mark),
        2 => matches!(between, "::" | "--"),
        _ => false,
    }
}
