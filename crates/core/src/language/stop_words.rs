//! Words too common to carry a meaning of their own.

use rustc_hash::FxHashSet;
use stop_words::Language as StopList;

use super::{Language, fold, folded};

/// The stop words of one language, folded but not stemmed.
#[derive(Debug, Clone, Default)]
pub struct StopWords(FxHashSet<String>);

impl StopWords {
    /// O(words of the list). A language without a list has none.
    pub fn of(language: Language) -> Self {
        let words = list(language).map(stop_words::get).unwrap_or_default();
        Self(words.iter().map(|word| fold(word)).collect())
    }

    /// The words, folded, in no order.
    pub fn into_words(self) -> impl Iterator<Item = String> {
        self.0.into_iter()
    }

    /// Whether a folded word says nothing by itself.
    pub fn holds(&self, folded: &str) -> bool {
        self.0.contains(folded)
    }

    /// Whether a word says something by itself: no stop word, no number, no single letter, and of two letters only what is
    /// no common word of our alphabet, as `UI` or `Æs`.
    pub fn tells(&self, word: &str) -> bool {
        let folded = folded(word);
        let is_short = word.len() <= 2 && word.bytes().skip(1).all(|byte| byte.is_ascii_lowercase());
        !is_short && word.chars().count() > 1 && !folded.chars().all(char::is_numeric) && !self.holds(&folded)
    }

    /// How many words of a phrase say something by themselves. One ideograph says little, two and more do.
    pub fn telling<'w>(&self, words: impl Iterator<Item = &'w str> + Clone) -> usize {
        let ideographs = words.clone().filter(|word| is_ideograph(word)).count();
        let others = words.filter(|word| self.tells(word)).count();
        others + if ideographs > 1 { ideographs } else { 0 }
    }
}

/// Whether a word is a character that stands for a word or a part of one, as in Chinese and Japanese, where words are not
/// set apart and each such character is cut off as one.
pub fn is_ideograph(word: &str) -> bool {
    let mut chars = word.chars();
    let is_one = chars.next().is_some_and(|c| {
        matches!(c, '\u{3400}'..='\u{4dbf}' | '\u{4e00}'..='\u{9fff}' | '\u{f900}'..='\u{faff}' | '\u{20000}'..='\u{3ffff}')
    });
    is_one && chars.next().is_none()
}

const fn list(language: Language) -> Option<StopList> {
    Some(match language {
        Language::Arabic => StopList::Arabic,
        Language::Danish => StopList::Danish,
        Language::Dutch => StopList::Dutch,
        Language::English => StopList::English,
        Language::Finnish => StopList::Finnish,
        Language::French => StopList::French,
        Language::German => StopList::German,
        Language::Greek => StopList::Greek,
        Language::Hungarian => StopList::Hungarian,
        Language::Italian => StopList::Italian,
        Language::Norwegian => StopList::Norwegian,
        Language::Portuguese => StopList::Portuguese,
        Language::Romanian => StopList::Romanian,
        Language::Russian => StopList::Russian,
        Language::Spanish => StopList::Spanish,
        Language::Swedish => StopList::Swedish,
        Language::Turkish => StopList::Turkish,
        Language::Tamil | Language::Other => return None,
    })
}
