//! What a title says of where its subject is or comes from, and whose it is: “The Perseids from Larkmoor Hill” is not about
//! the hill, nor “Nessa Quill's notebook” about her.

use crate::document::TextSpan;
use crate::language::{Language, Word, folded, words};

/// The parts of a title that name a place or an owner. Only languages that write proper names alone with capitals tell
/// them from other nouns. O(words).
pub(super) fn origins(title: &str, languages: impl Iterator<Item = Language> + Clone) -> Vec<TextSpan> {
    let found: Vec<Word<'_>> = words(title).collect();
    let mut origins = Vec::new();
    for (at, word) in found.iter().enumerate().skip(1) {
        if languages.clone().any(|language| comes_before_origin(language, &folded(word.text)))
            && !is_of_doing(found[at - 1].text)
            && let [first, .., last] | [first @ last] = proper(&found[at + 1..])
        {
            origins.push(TextSpan::new(first.span.start, last.span.end));
        }
    }
    if let Some(at) = found.iter().position(|word| is_possessive(word.text))
        && at + 1 < found.len()
        && proper(&found[..=at]).len() == at + 1
    {
        origins.push(TextSpan::new(found[0].span.start, found[at].span.end));
    }
    origins
}

/// The words at the beginning that are written as proper names are.
fn proper<'f, 'w>(found: &'f [Word<'w>]) -> &'f [Word<'w>] {
    let is_proper = |word: &Word<'_>| word.text.starts_with(char::is_uppercase);
    &found[..found.iter().take_while(|word| is_proper(word)).count()]
}

/// What is done from something is about it, as in “Porting from Oracle”.
fn is_of_doing(word: &str) -> bool {
    word.ends_with("ing")
}

fn is_possessive(word: &str) -> bool {
    word.ends_with("'s") || word.ends_with("\u{2019}s")
}

/// Whether a folded word says where something is or comes from, and no more than that: what stands after “in”, “of” and
/// “for” is often the subject.
fn comes_before_origin(language: Language, folded: &str) -> bool {
    let known: &[&str] = match language {
        Language::English => &["from", "at", "near", "above", "over", "outside", "by"],
        Language::French => &["depuis", "chez"],
        Language::Spanish => &["desde"],
        Language::Italian => &["presso"],
        Language::Dutch => &["vanaf", "nabij", "bij"],
        Language::Swedish => &["fran", "vid", "hos"],
        Language::Danish | Language::Norwegian => &["fra", "ved", "hos"],
        _ => &[],
    };
    known.contains(&folded)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(title: &str, language: Language) -> Vec<&str> {
        let spans = origins(title, std::iter::once(language));
        spans.into_iter().map(|span| &title[span.start..span.end]).collect()
    }

    #[test]
    fn places_and_owners_are_told_from_subjects() {
        for (title, told) in [
            ("The Perseids from Larkmoor Hill", &["Larkmoor Hill"][..]),
            ("Open evening at the Quarry", &[]),
            ("Jupiter over Larkmoor in June", &["Larkmoor"]),
            ("Drawings by Nessa Quill", &["Nessa Quill"]),
            ("Nessa Quill\u{2019}s notebook of stars", &["Nessa Quill\u{2019}s"]),
            ("A member's notebook", &[]),
            ("Porting from Oracle PL/SQL", &[]),
            ("List of regular expressions", &[]),
            ("Links in Visual Basic", &[]),
            ("From Larkmoor", &[]),
            ("Tips from experts", &[]),
        ] {
            assert_eq!(of(title, Language::English), told, "{title}");
        }
        assert_eq!(of("La Lune depuis Saint Malo", Language::French), ["Saint Malo"]);
        assert_eq!(of("Der Mond bei Nacht", Language::German), [""; 0], "all nouns have capitals");
    }
}
