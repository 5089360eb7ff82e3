//! Words for messages.

use strelm_core::document::TextSpan;
use strelm_core::document::text::fold_space;

/// A sentence's first letter as a capital.
pub fn capitalised(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map(|first| first.to_uppercase().chain(characters).collect()).unwrap_or_default()
}

/// A sentence before, on and after some of its words. White space is folded, but kept as one space beside the words.
pub fn sentence_pieces(text: &str, sentence: TextSpan, words: TextSpan) -> (String, String, String) {
    let piece = |start: usize, end: usize| text.get(start..end).unwrap_or_default();
    let (before, after) = (piece(sentence.start, words.start), piece(words.end, sentence.end));
    let space = |is: bool| if is { " " } else { "" };
    (
        format!("{}{}", fold_space(before), space(before.ends_with(char::is_whitespace))),
        fold_space(piece(words.start, words.end)),
        format!("{}{}", space(after.starts_with(char::is_whitespace)), fold_space(after)),
    )
}
