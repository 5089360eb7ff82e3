//! Shares and logarithms that several groups of numbers are made of.

use crate::phrases::{PhraseBook, PhraseId, TermId};

/// How often words are a link where they stand, as a logarithm.
pub(super) fn linked(book: &PhraseBook, phrase: PhraseId) -> f32 {
    let standing = book.standing(phrase);
    ((standing.linked as f32 + 0.1) / (standing.linked as f32 + standing.stands as f32 + 1.0)).ln()
}

/// The share of weighed terms that are there.
pub(super) fn covered(terms: &[(TermId, f32)], is_there: impl Fn(TermId) -> bool) -> f32 {
    let all: f32 = terms.iter().map(|(_, weight)| weight).sum();
    let there: f32 = terms.iter().filter(|(term, _)| is_there(*term)).map(|(_, weight)| weight).sum();
    if all > 0.0 { there / all } else { 0.0 }
}
