//! How words are written, beside the name that they are; and how near two pages lie.

use crate::language::{folded, words};
use crate::phrases::{Mention, PhraseBook};
use crate::site::PageId;

/// 2 for two pages in the same folder, 1 for folders of which one holds the other.
pub(super) fn folder_nearness(book: &PhraseBook, one: PageId, other: PageId) -> f32 {
    if book.anchors().folder_of(one) == book.anchors().folder_of(other) {
        return 2.0;
    }
    let path = |page: PageId| book.facts(page).map(|facts| facts.address.as_url().path());
    let folder = |path: &str| path.rsplit_once('/').map_or(String::new(), |(folder, _)| format!("{folder}/"));
    match path(one).zip(path(other)) {
        Some((one, other)) if other.starts_with(&folder(one)) || one.starts_with(&folder(other)) => 1.0,
        _ => 0.0,
    }
}

/// 2 when the words stand as in the name, 1 when only case and accents differ, 0 for another form.
pub(super) fn form(book: &PhraseBook, mention: &Mention, shown: &str) -> f32 {
    let names = book.names(mention.target()).iter().filter(|name| name.phrase == mention.phrase);
    let grade = |name: &str| if holds_words(name, shown) { 2.0 } else { f32::from(u8::from(has_form_of(name, shown))) };
    let none: f32 = if mention.naming.source.is_none() { 1.0 } else { 0.0 };
    names.map(|name| grade(&name.text)).fold(none, f32::max)
}

/// Whether a name holds words in this very form, but for case and accents. O(length).
pub(in crate::openings) fn has_form_of(name: &str, shown: &str) -> bool {
    holds_words(&folded(name), &folded(shown))
}

/// Whether the words of one text stand in another, one after the other.
fn holds_words(text: &str, shown: &str) -> bool {
    // Most names are the words themselves, or these in another case.
    if text.eq_ignore_ascii_case(shown) {
        return text == shown;
    }
    let of = |text| words(text).map(|word| word.text).collect::<Vec<_>>();
    let (text, shown) = (of(text), of(shown));
    shown.is_empty() || text.windows(shown.len()).any(|some| some == shown.as_slice())
}

/// 3 for words that hold marks or digits, 2 for capitals throughout, 1 for capitals inside, 0 for plain words.
pub(super) fn shape(shown: &str) -> f32 {
    let has = |test: fn(char) -> bool| shown.contains(test);
    if has(|c| c == '_' || c.is_ascii_digit() || "().:/<>$%".contains(c)) {
        return 3.0;
    }
    let letters = shown.chars().filter(|c| c.is_alphabetic()).count();
    let capitals = shown.chars().filter(|c| c.is_uppercase()).count();
    match capitals {
        0 => 0.0,
        all if all == letters && letters > 1 => 2.0,
        _ if shown.chars().skip(1).any(char::is_uppercase) => 1.0,
        _ => 0.5,
    }
}
