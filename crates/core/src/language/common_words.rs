//! How common a word is in its language as a whole, whatever a site writes about: “people” is, “eyepiece” is not.

use std::sync::OnceLock;

use rustc_hash::FxHashMap;

use super::Language;

/// The common words of one language, folded but not stemmed.
#[derive(Debug)]
pub struct CommonWords(FxHashMap<&'static str, u8>);

impl CommonWords {
    /// The most common word that is in no list is less common than this, on the Zipf scale.
    pub const LEAST: f32 = 4.0;

    /// From here on, as “course” or “market”, a word by itself says what everybody means by it.
    pub const EVERYDAY: f32 = 4.5;

    /// The list is read the first time, O(its words), and kept. `None` for a language without one.
    pub fn of(language: Language) -> Option<&'static Self> {
        static LISTS: [OnceLock<CommonWords>; Language::ALL.len()] = [const { OnceLock::new() }; Language::ALL.len()];
        let at = Language::ALL.iter().position(|known| *known == language)?;
        let list = list(language)?;
        Some(LISTS[at].get_or_init(|| Self::read(list)))
    }

    /// Lines of the tenths of a grade and the words that have it.
    fn read(list: &'static str) -> Self {
        let mut words = FxHashMap::default();
        for line in list.lines().filter(|line| !line.starts_with('#')) {
            let mut parts = line.split(' ');
            if let Some(tenths) = parts.next().and_then(|tenths| tenths.parse().ok()) {
                words.extend(parts.map(|word| (word, tenths)));
            }
        }
        Self(words)
    }

    /// How common a folded word is on the Zipf scale: the logarithm to the base of ten of how often it stands among a
    /// thousand million words. `None` for what is no common word. O(1).
    pub fn grade(&self, folded: &str) -> Option<f32> {
        let of = |word| self.0.get(word).map(|tenths| f32::from(*tenths) / 10.0);
        of(folded).or_else(|| of(folded.strip_suffix("'s")?))
    }

    /// All of them, in no particular order.
    pub fn words(&self) -> impl Iterator<Item = &'static str> {
        self.0.keys().copied()
    }
}

const fn list(language: Language) -> Option<&'static str> {
    Some(match language {
        Language::Arabic => include_str!("common_words/ar.txt"),
        Language::Danish => include_str!("common_words/da.txt"),
        Language::Dutch => include_str!("common_words/nl.txt"),
        Language::English => include_str!("common_words/en.txt"),
        Language::Finnish => include_str!("common_words/fi.txt"),
        Language::French => include_str!("common_words/fr.txt"),
        Language::German => include_str!("common_words/de.txt"),
        Language::Greek => include_str!("common_words/el.txt"),
        Language::Hungarian => include_str!("common_words/hu.txt"),
        Language::Italian => include_str!("common_words/it.txt"),
        Language::Norwegian => include_str!("common_words/nb.txt"),
        Language::Portuguese => include_str!("common_words/pt.txt"),
        Language::Romanian => include_str!("common_words/ro.txt"),
        Language::Russian => include_str!("common_words/ru.txt"),
        Language::Spanish => include_str!("common_words/es.txt"),
        Language::Swedish => include_str!("common_words/sv.txt"),
        Language::Tamil => include_str!("common_words/ta.txt"),
        Language::Turkish => include_str!("common_words/tr.txt"),
        Language::Other => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::language::fold;

    #[test]
    fn lists_hold_thousands_of_words_as_they_are_looked_for() {
        for language in Language::ALL {
            let common = CommonWords::of(language).unwrap();
            assert!(common.words().count() > 5000, "{language:?}");
            let strange: Vec<_> = common.words().filter(|word| fold(word) != *word).collect();
            assert!(strange.is_empty(), "{language:?}: {strange:?}");
            assert!(common.words().all(|word| common.grade(word).unwrap() >= CommonWords::LEAST));
        }
        assert!(CommonWords::of(Language::Other).is_none());
    }

    #[test]
    fn what_everybody_says_is_more_common_than_what_a_trade_says() {
        let grade = |language, word: &str| CommonWords::of(language).unwrap().grade(&fold(word));
        let english = |word| grade(Language::English, word);
        assert!(english("people") > english("Sunday") && english("sunday's") > english("sketch"));
        assert_eq!(english("eyepiece"), None);
        assert!(grade(Language::French, "été") > grade(Language::French, "étoile"));
        assert_eq!(grade(Language::German, "Rotlichtlampe"), None);
    }
}
