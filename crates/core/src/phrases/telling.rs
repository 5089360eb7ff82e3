//! Phrases of which a page speaks again and again, so that they may name it though they stand in none of its titles.

use rustc_hash::FxHashMap;

use super::lexicon::TermId;
use super::prose::{Prose, Token, TokenMarks};
use crate::language::StopWords;

/// A page speaks of a phrase that stands on it so often.
const LEAST: u32 = 3;

/// Longer rows of words that are repeated are quotations.
const LONGEST: usize = 4;

/// Of so many phrases a page may be said to speak.
const MOST: usize = 8;

/// A part of a phrase is one of its own only where it stands so many times as often.
const OWN: f32 = 1.5;

/// A row of words that a page repeats: where it stands first, and how often it does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Repeated {
    first: u32,
    len: u8,
    count: u32,
}

impl Repeated {
    fn tokens(self, of: &[Token]) -> &[Token] {
        let first = self.first as usize;
        of.get(first..first + usize::from(self.len)).unwrap_or_default()
    }

    /// How much of the page it takes.
    fn weight(self) -> u32 {
        self.count * u32::from(self.len)
    }
}

/// Rows of two to four words that may carry a link together and stand on a page three times or more, in the order of their
/// length and then of their places. A longer row is only looked for where both of its shorter ones are repeated (Agrawal
/// and Srikant, “Fast algorithms for mining association rules”, 1994). O(tokens).
pub(super) fn repeated(tokens: &[Token]) -> Vec<Repeated> {
    let mut found = Vec::new();
    // By place: the number of the row that begins there, when it is repeated.
    let mut rows: Vec<Option<u32>> = tokens.iter().map(|token| Some(token.term().0)).collect();
    for len in 2..=LONGEST {
        let joined = |at: usize| tokens[at + len - 1].has(TokenMarks::JOINED);
        let key = |at: usize| Some((rows[at]?, rows.get(at + 1).copied().flatten()?));
        let places = 0..(tokens.len() + 1).saturating_sub(len);
        let mut counted: FxHashMap<(u32, u32), Repeated> = FxHashMap::default();
        for at in places.clone().filter(|at| joined(*at)) {
            let Some(key) = key(at) else { continue };
            let (first, len) = (u32::try_from(at).unwrap_or(u32::MAX), u8::try_from(len).unwrap_or(u8::MAX));
            counted.entry(key).or_insert(Repeated { first, len, count: 0 }).count += 1;
        }
        let longer: Vec<_> = places
            .map(|at| {
                let row = counted.get(&key(at).filter(|_| joined(at))?)?;
                (row.count >= LEAST).then_some(row.first)
            })
            .collect();
        rows = longer;
        let before = found.len();
        found.extend(counted.into_values().filter(|row| row.count >= LEAST));
        found[before..].sort_unstable_by_key(|row| row.first);
    }
    found
}

/// The phrases among what a page repeats, as they are written where they stand first: from one word that tells to one that
/// does, those first that take most of the page. O(rows²).
pub(super) fn telling(prose: &Prose, repeated: &[Repeated], stop_words: &StopWords) -> Vec<String> {
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

    use super::*;
    use crate::document::Document;
    use crate::language::Language;
    use crate::phrases::lexicon::Lexicon;
    use crate::phrases::prose::ReadProse;

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
