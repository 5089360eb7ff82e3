//! Words too common to carry a meaning of their own.

use super::Language;

const ENGLISH: &str = "a about above after again against all also am an and any are as at be because been before being \
    below between both but by can could did do does doing down during each few for from further had has have having he \
    her here hers him his how i if in into is it its just may me more most my no nor not now of off on once one only or \
    other our out over own same she should so some such than that the their them then there these they this those \
    through to too under until up very was we were what when where which while who why will with would you your";

/// Whether `word`, folded but not stemmed, says nothing by itself.
///
/// Known for English; other languages follow with the full engine and have none until then.
pub fn is_stop_word(language: Language, word: &str) -> bool {
    language == Language::English && ENGLISH.split_ascii_whitespace().any(|stop| stop == word)
}
