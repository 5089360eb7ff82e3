//! Words, folding and sentences, over several scripts.

use proptest::prelude::*;
use strelm_core::document::TextSpan;
use strelm_core::language::{Language, Stemmer, StopWords, fold, sentence_around, words};

fn joined(text: &str) -> Vec<(&str, bool)> {
    words(text).map(|word| (word.text, word.joined)).collect()
}

#[test]
fn only_a_space_or_a_hyphen_joins_words_into_a_phrase() {
    assert_eq!(joined("red dot-finder"), [("red", false), ("dot", true), ("finder", true)]);
    assert_eq!(joined("red,\n torch"), [("red", false), ("torch", false)]);
    assert_eq!(joined("red\n  torch"), [("red", false), ("torch", true)]);
    assert_eq!(joined("night. Sky (dark)"), [("night", false), ("Sky", false), ("dark", false)]);
    assert_eq!(joined("a -- b"), [("a", false), ("b", false)]);
}

#[test]
fn folding_makes_the_same_of_what_a_reader_takes_for_the_same() {
    for (one, other) in
        [("Étoile", "etoile"), ("ﬁnder", "finder"), ("BARLOW’S", "barlow's"), ("Ⅷ", "viii"), ("Ångström", "angstrom")]
    {
        assert_eq!(fold(one), fold(other), "{one}");
    }
    assert_ne!(fold("resume"), fold("resumed"));
}

#[test]
fn stems_are_those_of_the_page_s_language() {
    let cases = [
        ("en", "eyepieces", "eyepiece"),
        ("de", "Teleskope", "Teleskop"),
        ("fr", "étoiles", "étoile"),
        ("es", "planetas", "planeta"),
        ("it", "stelle", "stella"),
        ("sv", "stjärnorna", "stjärna"),
        ("ru", "планеты", "планета"),
    ];
    for (tag, one, other) in cases {
        let stemmer = Stemmer::new(Language::from_tag(tag));
        assert_eq!(stemmer.stem(one), stemmer.stem(other), "{tag}");
    }
    let other = Stemmer::new(Language::from_tag("tlh"));
    assert_eq!(other.stem("Stars"), "stars", "an unknown language is folded only");
    assert_eq!(Language::from_tag("nb-NO"), Language::from_tag("no"));
}

#[test]
fn stop_words_are_those_of_the_language() {
    let tells = |language, word: &str| StopWords::of(language).tells(word);
    assert!(!tells(Language::English, "The") && tells(Language::English, "moon"));
    assert!(!tells(Language::German, "und") && tells(Language::German, "Mond"));
    assert!(!tells(Language::French, "était"), "accents are folded on both sides");
    assert!(!tells(Language::Other, "1984") && !tells(Language::Other, "x") && tells(Language::Other, "月球"));
}

#[test]
fn a_sentence_ends_where_a_reader_ends_it() {
    let sentence = |block: &str, words: &str| {
        let start = block.find(words).unwrap();
        block[sentence_around(block, TextSpan::new(start, start + words.len())).range()].to_owned()
    };
    let block = "It was 3.5 degrees. Mr Oldfield waited! Was it clear?  Yes.";
    assert_eq!(sentence(block, "degrees"), "It was 3.5 degrees.");
    assert_eq!(sentence(block, "clear"), "Was it clear?");
    assert_eq!(sentence(block, "Yes"), "Yes.");
    assert_eq!(sentence(block, "waited! Was"), "Mr Oldfield waited! Was it clear?", "words over an end get both");
    assert_eq!(sentence("no end at all", "end"), "no end at all");
}

proptest! {
    #[test]
    fn words_lie_in_their_text_in_order(text in "\\PC{0,80}") {
        let mut end = 0;
        for word in words(&text) {
            prop_assert_eq!(&text[word.span.range()], word.text);
            prop_assert!(word.span.start >= end);
            end = word.span.end;
        }
    }

    #[test]
    fn words_of_plain_letters_are_folded_as_all_others_are(word in "[ -~]{0,12}") {
        // A letter with an accent makes the whole go the longer way.
        prop_assert_eq!(fold(&word) + "e", fold(&format!("{word}é")));
    }

    #[test]
    fn folding_twice_changes_nothing_more(word in "\\PC{0,12}") {
        let once = fold(&word);
        prop_assert_eq!(fold(&once), once);
    }

    #[test]
    fn a_sentence_holds_its_words(text in "[a-z .!?\n]{1,80}", at in 0usize..80, len in 1usize..10) {
        let start = at.min(text.len() - 1);
        let words = TextSpan::new(start, (start + len).min(text.len()));
        let sentence = sentence_around(&text, words);
        let inner = text[words.range()].trim();
        prop_assert!(text[sentence.range()].contains(inner));
    }
}
