//! Phrases of which a page speaks again and again, so that they may name it though they stand in none of its titles.

use super::lexicon::TermId;
use super::prose::{Prose, ReadProse};
use super::repeated::Repeated;
use super::token::Token;
use crate::language::StopWords;

/// Of so many phrases a page may be said to speak.
const MOST: usize = 8;

/// A part of a phrase is one of its own only where it stands so many times as often.
const OWN: f32 = 1.5;

/// The phrases of which a page speaks again and again, as they are written on it. O(rows of words that are repeated²).
pub(super) fn phrases_of(read: &ReadProse, stop_words: &StopWords) -> Vec<String> {
    let (prose, repeated) = read.repeats();
    telling(prose, repeated, stop_words)
}

/// The phrases among what a page repeats, as they are written where they stand first: from one word that tells to one that
/// does, those first that take most of the page. O(rows²).
fn telling(prose: &Prose, repeated: &[Repeated], stop_words: &StopWords) -> Vec<String> {
    let tokens = prose.tokens();
    let shown = |tokens: &[Token]| {
        let (first, last) = tokens.first().zip(tokens.last())?;
        prose.text().get(first.span().start..last.span().end)
    };
    let tells = |token: &Token| shown(std::slice::from_ref(token)).is_some_and(|word| stop_words.tells(word));
    let mut rows: Vec<Repeated> = repeated
        .iter()
        .filter(|row| row.tokens(tokens).first().is_some_and(tells) && row.tokens(tokens).last().is_some_and(tells))
        .copied()
        .collect();
    rows.sort_by_key(|row| (std::cmp::Reverse(row.weight()), row.first));
    let terms = |row: &Repeated| -> Vec<TermId> { row.tokens(tokens).iter().map(|token| token.term()).collect() };
    let mut kept: Vec<(Repeated, Vec<TermId>)> = Vec::new();
    for row in rows {
        let own = terms(&row);
        let is_part = |(whole, all): &(Repeated, Vec<TermId>)| {
            let (few, many) = if own.len() < all.len() { (&own, all) } else { (all, &own) };
            let (part, of) = if own.len() < all.len() { (row.count, whole.count) } else { (whole.count, row.count) };
            many.windows(few.len()).any(|some| some == few.as_slice()) && (part as f32) < OWN * of as f32
        };
        if !kept.iter().any(is_part) {
            kept.push((row, own));
        }
        if kept.len() == MOST {
            break;
        }
    }
    kept.iter().filter_map(|(row, _)| Some(shown(row.tokens(tokens))?.to_owned())).collect()
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use proptest::prelude::*;

    use super::super::repeated::{LEAST, LONGEST, repeated};
    use super::*;
    use crate::document::Document;
    use crate::language::Language;
    use crate::phrases::lexicon::Lexicon;
    use crate::phrases::token::TokenMarks;

    /// Words in paragraphs, some of them in code, in links or after a mark, where no phrase goes on.
    fn html() -> impl Strategy<Value = String> {
        let word = prop::sample::select(vec![
            "dew",
            "dew shield",
            "dew shield of foam",
            "shields",
            "of",
            "the",
            "foam",
            "<code>dew shield</code>",
            "<a href=/x>dew</a>",
            ", then",
        ]);
        let paragraph = prop::collection::vec(word, 1..20).prop_map(|words| format!("<p>{}.</p>", words.join(" ")));
        prop::collection::vec(paragraph, 1..6).prop_map(|paragraphs| paragraphs.concat())
    }

    fn prose(html: &str) -> Prose {
        ReadProse::of(&Document::from_html(html), Language::English).number(&mut Lexicon::default())
    }

    /// Every row of words, written down and counted.
    fn counted(tokens: &[Token]) -> Vec<Repeated> {
        let mut rows: BTreeMap<Vec<u32>, Repeated> = BTreeMap::new();
        for len in 2..=LONGEST {
            for (first, row) in tokens.windows(len).enumerate() {
                if row[1..].iter().all(|token| token.has(TokenMarks::JOINED)) {
                    let first = Repeated { first: first as u32, len: len as u8, count: 0 };
                    rows.entry(row.iter().map(|token| token.term().0).collect()).or_insert(first).count += 1;
                }
            }
        }
        let mut rows: Vec<_> = rows.into_values().filter(|row| row.count >= LEAST).collect();
        rows.sort_by_key(|row| (row.len, row.first));
        rows
    }

    proptest! {
        #[test]
        fn what_is_repeated_is_what_counting_all_rows_finds(html in html()) {
            let prose = prose(&html);
            prop_assert_eq!(repeated(prose.tokens()), counted(prose.tokens()));
        }

        #[test]
        fn a_page_speaks_of_few_phrases_which_begin_and_end_with_words_that_tell(html in html()) {
            let prose = prose(&html);
            let stop_words = StopWords::of(Language::English);
            let phrases = telling(&prose, &repeated(prose.tokens()), &stop_words);
            prop_assert!(phrases.len() <= MOST);
            for phrase in &phrases {
                let words: Vec<_> = phrase.split_whitespace().collect();
                prop_assert!((2..=LONGEST).contains(&words.len()), "{}", phrase);
                prop_assert!(stop_words.tells(words[0]) && stop_words.tells(words[words.len() - 1]), "{}", phrase);
            }
        }
    }

    #[test]
    fn a_part_is_a_phrase_of_its_own_only_where_it_also_stands_alone() {
        let phrases = |html: &str| {
            let prose = prose(html);
            telling(&prose, &repeated(prose.tokens()), &StopWords::of(Language::English))
        };
        let always = "<p>A dew shield heater. The dew shield heater. One dew shield heater.</p>";
        assert_eq!(phrases(always), ["dew shield heater"]);
        let alone = format!("{always}<p>A dew shield. My dew shield.</p>");
        assert_eq!(phrases(&alone), ["dew shield", "dew shield heater"]);
        assert_eq!(phrases("<p>A dew shield. The dew shield.</p>"), [""; 0], "twice is not again and again");
    }
}
