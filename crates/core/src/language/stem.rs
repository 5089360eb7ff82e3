//! Stemming by the Snowball family.

use serde::{Deserialize, Serialize};
use std::sync::{PoisonError, RwLock};

use rust_stemmers::Algorithm;
use rustc_hash::FxHashMap;

use super::fold::{Keeps, fold, folded_but};

/// A language whose words we can reduce to stems.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Language {
    Arabic,
    Danish,
    Dutch,
    English,
    Finnish,
    French,
    German,
    Greek,
    Hungarian,
    Italian,
    Norwegian,
    Portuguese,
    Romanian,
    Russian,
    Spanish,
    Swedish,
    Tamil,
    Turkish,
    /// Any other: words are folded and compared whole.
    Other,
}

impl Language {
    /// All that have a name of their own.
    pub const ALL: [Self; 18] = [
        Self::Arabic,
        Self::Danish,
        Self::Dutch,
        Self::English,
        Self::Finnish,
        Self::French,
        Self::German,
        Self::Greek,
        Self::Hungarian,
        Self::Italian,
        Self::Norwegian,
        Self::Portuguese,
        Self::Romanian,
        Self::Russian,
        Self::Spanish,
        Self::Swedish,
        Self::Tamil,
        Self::Turkish,
    ];

    /// From a BCP 47 tag such as `en` or `de-AT`.
    pub fn from_tag(tag: &str) -> Self {
        let primary = tag.split(['-', '_']).next().unwrap_or_default().to_ascii_lowercase();
        match primary.as_str() {
            "ar" => Self::Arabic,
            "da" => Self::Danish,
            "nl" => Self::Dutch,
            "en" => Self::English,
            "fi" => Self::Finnish,
            "fr" => Self::French,
            "de" => Self::German,
            "el" => Self::Greek,
            "hu" => Self::Hungarian,
            "it" => Self::Italian,
            "no" | "nb" | "nn" => Self::Norwegian,
            "pt" => Self::Portuguese,
            "ro" => Self::Romanian,
            "ru" => Self::Russian,
            "es" => Self::Spanish,
            "sv" => Self::Swedish,
            "ta" => Self::Tamil,
            "tr" => Self::Turkish,
            _ => Self::Other,
        }
    }

    /// The tag that [`Language::from_tag`] reads; for other languages that of ISO 639 for languages without a code.
    pub const fn tag(self) -> &'static str {
        match self {
            Self::Arabic => "ar",
            Self::Danish => "da",
            Self::Dutch => "nl",
            Self::English => "en",
            Self::Finnish => "fi",
            Self::French => "fr",
            Self::German => "de",
            Self::Greek => "el",
            Self::Hungarian => "hu",
            Self::Italian => "it",
            Self::Norwegian => "no",
            Self::Portuguese => "pt",
            Self::Romanian => "ro",
            Self::Russian => "ru",
            Self::Spanish => "es",
            Self::Swedish => "sv",
            Self::Tamil => "ta",
            Self::Turkish => "tr",
            Self::Other => "mis",
        }
    }

    const fn algorithm(self) -> Option<Algorithm> {
        Some(match self {
            Self::Arabic => Algorithm::Arabic,
            Self::Danish => Algorithm::Danish,
            Self::Dutch => Algorithm::Dutch,
            Self::English => Algorithm::English,
            Self::Finnish => Algorithm::Finnish,
            Self::French => Algorithm::French,
            Self::German => Algorithm::German,
            Self::Greek => Algorithm::Greek,
            Self::Hungarian => Algorithm::Hungarian,
            Self::Italian => Algorithm::Italian,
            Self::Norwegian => Algorithm::Norwegian,
            Self::Portuguese => Algorithm::Portuguese,
            Self::Romanian => Algorithm::Romanian,
            Self::Russian => Algorithm::Russian,
            Self::Spanish => Algorithm::Spanish,
            Self::Swedish => Algorithm::Swedish,
            Self::Tamil => Algorithm::Tamil,
            Self::Turkish => Algorithm::Turkish,
            Self::Other => return None,
        })
    }
}

/// Reduces words of one language.
pub struct Stemmer {
    language: Language,
    stemmer: Option<rust_stemmers::Stemmer>,
}

impl Stemmer {
    /// A stemmer for a language; where there is none for it, words stay as they are.
    pub fn new(language: Language) -> Self {
        Self { language, stemmer: language.algorithm().map(rust_stemmers::Stemmer::create) }
    }

    /// The word in small letters and stemmed, with its accents.
    pub fn stem_with_accents(&self, word: &str) -> String {
        let word = folded_but(word, Keeps { case: false, accents: true });
        match &self.stemmer {
            Some(stemmer) => stemmer.stem(&word).into_owned(),
            None => word,
        }
    }

    /// The word folded and stemmed. The stemmer sees the word with its accents, which some languages need.
    pub fn stem(&self, word: &str) -> String {
        match &self.stemmer {
            Some(stemmer) if word.is_ascii() => fold(&stemmer.stem(&word.to_ascii_lowercase())),
            Some(stemmer) => fold(&stemmer.stem(&word.to_lowercase().replace('\u{2019}', "'"))),
            None => fold(word),
        }
    }
}

/// Words of one language whose stems are remembered, at most.
const MOST_KNOWN: usize = 16_000;

type StemOf = FxHashMap<Box<str>, Box<str>>;

/// Stems of words in any language, each found once: pages of a site share most of their words. It may be asked from several
/// threads. Memory: about a megabyte for each language.
#[derive(Debug, Default)]
pub struct Stems {
    known: RwLock<FxHashMap<Language, StemOf>>,
}

impl Stems {
    /// As [`Stemmer::stem`].
    pub fn stem(&self, stemmer: &Stemmer, word: &str) -> String {
        self.stem_to(stemmer, word, str::to_owned)
    }

    /// What is made of the stem of a word; `make` must not ask for another, since what is known may be read meanwhile.
    pub fn stem_to<T>(&self, stemmer: &Stemmer, word: &str, make: impl FnOnce(&str) -> T) -> T {
        // What was put in is whole, whatever became of whoever put it there.
        let known = self.known.read().unwrap_or_else(PoisonError::into_inner);
        if let Some(stem) = known.get(&stemmer.language).and_then(|known| known.get(word)) {
            return make(stem);
        }
        drop(known);
        let stem = stemmer.stem(word);
        let made = make(&stem);
        let mut known = self.known.write().unwrap_or_else(PoisonError::into_inner);
        let known = known.entry(stemmer.language).or_default();
        // Words that are met once only would push out the common ones if the latest were kept.
        if known.len() < MOST_KNOWN {
            known.insert(word.into(), stem.into());
        }
        made
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn forms_of_a_word_share_a_stem() {
        let english = Stemmer::new(Language::from_tag("en-GB"));
        assert_eq!(english.stem("Eyepieces"), english.stem("eyepiece"));
        assert_eq!(english.stem("telescope’s"), english.stem("telescope"));
        let german = Stemmer::new(Language::German);
        assert_eq!(german.stem("Häuser"), german.stem("Haus"));
        let stems = Stems::default();
        for _ in 0..2 {
            assert_eq!(stems.stem(&german, "Diese"), german.stem("Diese"));
            assert_eq!(stems.stem(&english, "Diese"), english.stem("Diese"));
        }
    }
}
