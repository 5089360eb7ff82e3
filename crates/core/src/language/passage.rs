//! The language of a passage that does not say it, told by its most common words.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use super::{Language, StopWords, fold};

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
            let mut languages =
                *self.known.entry(word).or_insert_with(|| COMMON.get(fold(word).as_str()).copied().unwrap_or_default());
            while languages != 0 {
                counts[languages.trailing_zeros() as usize] += 1;
                languages &= languages - 1;
            }
        }
        let own = Language::ALL.iter().zip(counts).find(|(language, _)| **language == page).map_or(0, |(_, own)| own);
        let most = Language::ALL.into_iter().zip(counts).rev().max_by_key(|(_, count)| *count);
        most.filter(|(_, count)| *count >= LEAST.max(2 * own)).map_or(page, |(language, _)| language)
    }
}
