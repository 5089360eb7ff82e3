//! Words for messages.

use strelm_core::document::TextSpan;
use strelm_core::document::text::fold_space;

/// A sentence's first letter as a capital.
fn capitalised(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map(|first| first.to_uppercase().chain(characters).collect()).unwrap_or_default()
}

/// A message as a sentence of its own: with a capital at its beginning and a mark at its end.
pub fn sentence(text: &str) -> String {
    let end = if text.ends_with(['.', '?', '!']) { "" } else { "." };
    format!("{}{end}", capitalised(text))
}

/// What a page says as one line for a terminal: white space folded, and without the signs that tell a terminal what to do.
pub fn in_a_line(text: &str) -> String {
    fold_space(&text.replace(|c: char| c.is_control(), " "))
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sentence_has_one_end() {
        assert_eq!(sentence("it is not there: is the disk mounted?"), "It is not there: is the disk mounted?");
        assert_eq!((sentence("élan"), sentence("Done."), sentence("")), ("Élan.".into(), "Done.".into(), ".".into()));
    }

    #[test]
    fn what_a_page_says_does_not_tell_a_terminal_what_to_do() {
        assert_eq!(in_a_line("General Public\nLicense"), "General Public License");
        assert_eq!(in_a_line("a \u{1b}[2Jred\u{9b}31m \u{7}torch\r"), "a [2Jred 31m torch");
    }
}
