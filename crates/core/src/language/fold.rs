//! Case and accent folding.

use std::borrow::Cow;

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// Lower case, compatibility forms resolved, accents dropped, typographic apostrophes made plain.
///
/// `Étoile` and `etoile` fold to the same; so do `Barlow’s` and `Barlow's`.
pub fn fold(word: &str) -> String {
    folded(word).into_owned()
}

/// What folding leaves of a word beside its letters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Keeps {
    pub case: bool,
    pub accents: bool,
}

/// Folded as far as a word does not keep something.
pub fn folded_but(word: &str, keeps: Keeps) -> String {
    let plain = |c: char| if matches!(c, '\u{2019}' | '\u{02bc}') { '\'' } else { c };
    let letters: String = match keeps.accents {
        true => word.nfkc().collect(),
        false => word.nfkd().filter(|c| !is_combining_mark(*c)).collect(),
    };
    let cased: String = if keeps.case { letters } else { letters.to_lowercase() };
    cased.chars().map(plain).collect()
}

/// The same, without a copy of what is written like that already.
pub fn folded(word: &str) -> Cow<'_, str> {
    if word.is_ascii() {
        let is_lower = !word.bytes().any(|byte| byte.is_ascii_uppercase());
        return if is_lower { word.into() } else { word.to_ascii_lowercase().into() };
    }
    let plain = |c: char| if matches!(c, '\u{2019}' | '\u{02bc}') { '\'' } else { c };
    word.nfkd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).map(plain).collect()
}
