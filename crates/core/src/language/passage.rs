//! The language of a passage that does not say it, told by its most common words.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use super::{Language, StopWords, folded};

/// Words of a passage that are looked at: more of them tell no more.
const ENOUGH: usize = 60;

/// Common words of another language that a passage must have at least.
const LEAST: u32 = 4;

/// The stop words of all languages, each with the languages that have it, as bits in the order of [`Language::ALL`].
static COMMON: LazyLock<FxHashMap<Box<str>, u32>> = LazyLock::new(|| {
    let mut common: FxHashMap<Box<str>, u32> = FxHashMap::default();
    for (bit, language) in Language::ALL.into_iter().enumerate() {
        for word in StopWords::of(language).into_words() {
            *common.entry(word.into()).or_default() |= 1 << bit;
        }
    }
    common
});

/// Whether a text is English beyond doubt: a third of its first words are among the common ones of English, and no other
/// language with a list has half of that. O(1): looks at the beginning.
pub(super) fn is_plainly_english(text: &str) -> bool {
    let bit = Language::ALL.iter().position(|language| *language == Language::English).unwrap_or_default();
    let (mut all, mut counts) = (0, [0_u32; Language::ALL.len()]);
    let words = text.split(|c: char| !c.is_alphabetic()).filter(|word| word.len() > 1);
    for word in words.take(ENOUGH) {
        all += 1;
        count(COMMON.get(folded(word).as_ref()).copied().unwrap_or_default(), &mut counts);
    }
    let english = std::mem::take(&mut counts[bit]);
    all == ENOUGH && 3 * english as usize >= all && counts.into_iter().all(|other| 2 * other <= english)
}

/// One more word for each of some languages.
fn count(mut languages: u32, counts: &mut [u32; Language::ALL.len()]) {
    while languages != 0 {
        counts[languages.trailing_zeros() as usize] += 1;
        languages &= languages - 1;
    }
}

/// Tells in which language passages of a page are.
#[derive(Default)]
pub struct Passages<'w> {
    /// What is known of words: the languages in which they are common.
    known: FxHashMap<&'w str, u32>,
}

impl<'w> Passages<'w> {
    /// The language of a passage on a page in `page`: another one only where that has twice as many of its words among the
    /// common ones. Single letters tell nothing. O(1): looks at the beginning.
    pub fn language_of(&mut self, words: impl Iterator<Item = &'w str>, page: Language) -> Language {
        let mut counts = [0_u32; Language::ALL.len()];
        for word in words.take(ENOUGH).filter(|word| word.len() > 1) {
            let common = || COMMON.get(folded(word).as_ref()).copied().unwrap_or_default();
            count(*self.known.entry(word).or_insert_with(common), &mut counts);
        }
        let own = Language::ALL.iter().zip(counts).find(|(language, _)| **language == page).map_or(0, |(_, own)| own);
        let most = Language::ALL.into_iter().zip(counts).rev().max_by_key(|(_, count)| *count);
        most.filter(|(_, count)| *count >= LEAST.max(2 * own)).map_or(page, |(language, _)| language)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::{recognise, words};
    use super::*;

    const GERMAN: &str = "Wer den Mond durch ein Fernrohr betrachtet, sieht an der Grenze von Licht und Schatten die \
        meisten Einzelheiten, weil die Berge dort lange Schatten werfen.";
    const ENGLISH: &str = "Whoever looks at the moon through a telescope sees most where light and shadow meet, because \
        the mountains there throw long shadows.";
    const SPANISH: &str = "Quien mira la luna con un telescopio ve más detalles donde se encuentran la luz y la sombra, \
        porque las montañas proyectan allí sombras largas.";
    const FRENCH: &str = "Celui qui regarde la lune dans un télescope voit le plus de détails là où la lumière et l'ombre \
        se rencontrent, car les montagnes y jettent de longues ombres.";

    fn language(text: &str, page: Language) -> Language {
        Passages::default().language_of(words(text).map(|word| word.text), page)
    }

    #[test]
    fn a_passage_is_in_the_language_of_its_common_words() {
        let all = [GERMAN, ENGLISH, SPANISH, FRENCH];
        for text in all {
            let whole = recognise(text).unwrap();
            // French and Spanish share too many of their common words to be told from each other with certainty.
            for page in [Language::English, Language::German, Language::Other, whole] {
                assert_eq!(language(text, page), whole, "{page:?}: {text}");
            }
        }
    }

    #[test]
    fn what_is_not_clear_is_in_the_language_of_the_page() {
        for text in ["", "Barlow lens", "N – N (N, minus, N)", "set a b c d e f", "観測の準備をします", "17 25 32"]
        {
            assert_eq!(language(text, Language::German), Language::German, "{text}");
        }
        assert_eq!(language("Der Knopf heißt Open the file", Language::German), Language::German);
    }

    #[test]
    fn only_a_long_text_of_its_own_words_is_plainly_english() {
        let long = |text: &str| [text; 3].join(" ");
        assert!(is_plainly_english(&long(ENGLISH)));
        assert!(!is_plainly_english(ENGLISH), "too short");
        for other in [GERMAN, SPANISH, FRENCH] {
            assert!(!is_plainly_english(&long(other)), "{other}");
            assert!(!is_plainly_english(&long(&format!("{ENGLISH} {other}"))), "{other}");
        }
        assert!(!is_plainly_english(&long("select x from a where y is in b order by z")), "hardly a sentence");
        assert!(!is_plainly_english(""));
    }

    proptest! {
        #[test]
        fn words_of_one_language_among_others_are_told_by_what_most_are(
            turns in prop::collection::vec(any::<bool>(), 12..40)
        ) {
            let [german, english] = [GERMAN, ENGLISH].map(|text| words(text).map(|word| word.text).collect::<Vec<_>>());
            let (mut german, mut english) = (german.into_iter().cycle(), english.into_iter().cycle());
            let next = |is_german: &bool| if *is_german { german.next() } else { english.next() };
            let row: Vec<&str> = turns.iter().filter_map(next).collect();
            let germans = turns.iter().filter(|is_german| **is_german).count();
            let found = Passages::default().language_of(row.into_iter(), Language::English);
            if germans * 4 < turns.len() {
                prop_assert_eq!(found, Language::English);
            }
            prop_assert!([Language::German, Language::English].contains(&found));
        }
    }
}
