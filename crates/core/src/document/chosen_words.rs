//! Words that somebody chose to carry a link, whatever the judge of openings says of them.

use unicode_segmentation::UnicodeSegmentation;

use super::put_link::Refusal;
use super::span::TextSpan;
use super::{Document, SourceSpan};

/// Letters around the chosen words that are looked at for the ends of a word.
const LONGEST_WORD: usize = 200;

impl Document {
    /// The source of words that were chosen by hand, if they can carry a link that readers see and can hit. Cost as
    /// [`Document::may_link`].
    ///
    /// # Errors
    /// As [`Document::may_link`]; [`Refusal::NoWords`] where nothing of them is visible, [`Refusal::PieceOfWord`] for a
    /// single letter of a longer word.
    pub fn may_link_chosen(&self, words: TextSpan) -> Result<SourceSpan, Refusal> {
        let place = self.may_link(words)?;
        let chosen = self.text().slice(words);
        if chosen.chars().all(is_invisible) {
            return Err(Refusal::NoWords);
        }
        let mut letters = chosen.chars().filter(|c| c.is_alphanumeric());
        let is_one_letter = letters.next().is_some() && letters.next().is_none();
        if is_one_letter && self.is_within_word(words) {
            return Err(Refusal::PieceOfWord);
        }
        Ok(place)
    }

    /// Whether the words are a part of one word.
    fn is_within_word(&self, words: TextSpan) -> bool {
        let text = self.text().as_str();
        let start = text.floor_char_boundary(words.start.saturating_sub(LONGEST_WORD));
        let end = text.ceil_char_boundary(words.end.saturating_add(LONGEST_WORD));
        let around = &text[start..end];
        let chosen = words.start - start..words.end - start;
        around.split_word_bound_indices().any(|(at, word)| {
            let holds = at <= chosen.start && chosen.end <= at + word.len();
            holds && word.len() > chosen.len() && word.chars().filter(|c| c.is_alphanumeric()).count() > 1
        })
    }
}

/// White space, controls, and what Unicode calls default ignorable: joiners, marks of direction, soft hyphens, selectors.
fn is_invisible(c: char) -> bool {
    c.is_whitespace()
        || c.is_control()
        || matches!(
            c,
            '\u{ad}'
                | '\u{34f}'
                | '\u{61c}'
                | '\u{115f}'
                | '\u{1160}'
                | '\u{17b4}'
                | '\u{17b5}'
                | '\u{180b}'..='\u{180f}'
                | '\u{200b}'..='\u{200f}'
                | '\u{202a}'..='\u{202e}'
                | '\u{2060}'..='\u{206f}'
                | '\u{2800}'
                | '\u{3164}'
                | '\u{fe00}'..='\u{fe0f}'
                | '\u{feff}'
                | '\u{ffa0}'
                | '\u{fff0}'..='\u{fff8}'
                | '\u{e0000}'..='\u{e0fff}'
        )
}

#[cfg(test)]
mod tests {
    use super::*;

    fn chosen(html: &str, words: &str) -> Result<(), Refusal> {
        let document = Document::from_html(format!("<p>{html}</p>"));
        let at = document.text().as_str().find(words).unwrap();
        document.may_link_chosen(TextSpan::new(at, at + words.len())).map(drop)
    }

    #[test]
    fn what_readers_see_and_can_hit_may_carry_a_link() {
        for (html, words) in [
            ("The red torch shines.", "red torch"),
            ("Plan B is better.", "B"),
            ("Sternwarte im Nebel", "warte"),
            ("天文台", "文"),
            ("See 🪐 tonight.", "🪐"),
            ("an é alone", "é"),
        ] {
            assert_eq!(chosen(html, words), Ok(()), "{words}");
        }
    }

    #[test]
    fn a_letter_of_a_word_and_what_nobody_sees_may_not() {
        for (html, words, why) in [
            ("The red torch", "o", Refusal::PieceOfWord),
            ("naïve", "ï", Refusal::PieceOfWord),
            ("a&#8203;b", "\u{200b}", Refusal::NoWords),
            ("soft&shy;hyphen", "\u{ad}", Refusal::NoWords),
            ("x &#8205;&#65039; y", "\u{200d}\u{fe0f}", Refusal::NoWords),
        ] {
            assert_eq!(chosen(html, words), Err(why), "{words:?}");
        }
    }
}
