//! Case and accent folding.

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// Lower case, compatibility forms resolved, accents dropped, typographic apostrophes made plain.
///
/// `Étoile` and `etoile` fold to the same; so do `Barlow’s` and `Barlow's`.
pub fn fold(word: &str) -> String {
    if word.is_ascii() {
        return word.to_ascii_lowercase();
    }
    let plain = |c: char| if matches!(c, '\u{2019}' | '\u{02bc}') { '\'' } else { c };
    word.nfkd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).map(plain).collect()
}
