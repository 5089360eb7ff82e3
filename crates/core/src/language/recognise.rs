//! The language of a text that does not say it.

use super::Language;
use super::passage::is_plainly_english;

/// So much text is mostly enough; where it does not make clear what language it is, more of it may. A longer stretch tells
/// no more.
const ENOUGH: [usize; 2] = [600, 4000];

/// The language in which a text is most likely written; `None` when that is not clear. O(1): looks at the beginning.
pub fn recognise(text: &str) -> Option<Language> {
    // No other language shares its common words, and asking for them takes a fiftieth of the time.
    if is_plainly_english(text) {
        return Some(Language::English);
    }
    let detect = |enough: usize| {
        let end = (0..=enough.min(text.len())).rev().find(|end| text.is_char_boundary(*end))?;
        whatlang::detect(&text[..end]).filter(whatlang::Info::is_reliable)
    };
    let found = ENOUGH.into_iter().find_map(detect)?;
    Some(match found.lang() {
        whatlang::Lang::Ara => Language::Arabic,
        whatlang::Lang::Dan => Language::Danish,
        whatlang::Lang::Nld => Language::Dutch,
        whatlang::Lang::Eng => Language::English,
        whatlang::Lang::Fin => Language::Finnish,
        whatlang::Lang::Fra => Language::French,
        whatlang::Lang::Deu => Language::German,
        whatlang::Lang::Ell => Language::Greek,
        whatlang::Lang::Hun => Language::Hungarian,
        whatlang::Lang::Ita => Language::Italian,
        whatlang::Lang::Nob => Language::Norwegian,
        whatlang::Lang::Por => Language::Portuguese,
        whatlang::Lang::Ron => Language::Romanian,
        whatlang::Lang::Rus => Language::Russian,
        whatlang::Lang::Spa => Language::Spanish,
        whatlang::Lang::Swe => Language::Swedish,
        whatlang::Lang::Tam => Language::Tamil,
        whatlang::Lang::Tur => Language::Turkish,
        _ => Language::Other,
    })
}
