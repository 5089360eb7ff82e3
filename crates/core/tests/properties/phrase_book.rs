//! The phrase book after deltas is the phrase book built anew; and what names pages.

use std::collections::BTreeMap;

use proptest::prelude::*;
use strelm_core::document::Document;
use strelm_core::language::Language;
use strelm_core::phrases::{BookText, NameSource, PhraseBook, PhraseUse, ReadProse};
use strelm_core::site::{PageFacts, PageId};

use crate::support::{follow, mentioned, page};

fn facts(number: u32, title: &str, heading: Option<&str>) -> PageFacts {
    PageFacts { heading: heading.map(str::to_owned), ..page(number, title) }
}

#[derive(Debug, Clone)]
enum Delta {
    Title(u32, String, Option<String>),
    Prose(u32, Option<String>),
    Remove(u32),
    /// Another text stands there for a while, or none.
    Away(u32, Option<String>),
    /// All texts that made way come back.
    Back,
    /// From then on what stands where is counted with each delta.
    Settle,
    /// A title for which nobody gets a name yet.
    TitleAlone(u32, String, Option<String>),
    /// All names are given, and all is counted anew beside a book that could be read meanwhile.
    Sweep,
}

fn words(most: usize) -> impl Strategy<Value = String> {
    let word = prop::sample::select(vec!["moon", "moons", "dark", "sky", "the", "star", "Club", "seeing"]);
    prop::collection::vec(word, 1..=most).prop_map(|words| words.join(" "))
}

/// A title or a heading: many begin or end with the same word, some have a number.
fn called() -> impl Strategy<Value = String> {
    prop_oneof![
        words(3),
        words(2).prop_map(|words| words + " star"),
        words(2).prop_map(|words| format!("Moon {words}")),
        words(2).prop_map(|words| format!("4. Moon {words}")),
        Just("dark sky".to_owned()),
        words(2).prop_map(|words| format!("{words} | Club")),
        words(2).prop_map(|words| format!("Club - {words}(8)")),
    ]
}

/// Words of a page's text, some of which are links.
fn text() -> impl Strategy<Value = String> {
    let word = prop::sample::select(vec![
        "moon",
        "moons",
        "dark",
        "sky",
        "the",
        "star",
        "Club",
        "<a href='/2'>dark</a>",
        "<a href='/3'>the moon</a>",
        "<code>sky</code>",
        "see",
        "seeing",
        "<a href='/4'>see</a>",
        "<a href='/4'>seeing</a>",
        "dark sky (DS)",
        "DS",
    ]);
    let once = prop::collection::vec(word, 1..=12).prop_map(|words| words.join(" "));
    // What is said three times names a page, where nothing else does.
    (once, prop::sample::select(vec![1, 3])).prop_map(|(text, times)| vec![text; times].join(". "))
}

fn delta() -> impl Strategy<Value = Delta> {
    prop_oneof![
        3 => (1u32..8, called(), any::<bool>(), prop::option::of(called())).prop_map(|(page, title, with_site, heading)| {
            Delta::Title(page, if with_site { format!("{title} | Sky Club") } else { title }, heading)
        }),
        2 => (1u32..8, prop::option::weighted(0.8, (text(), words(2))))
            .prop_map(|(page, text)| Delta::Prose(page, text.map(|(text, section)| format!("<h2>{section}</h2><p>{text}.</p>")))),
        1 => (1u32..8).prop_map(Delta::Remove),
        1 => (1u32..8, prop::option::of(text())).prop_map(|(page, text)| {
            Delta::Away(page, text.map(|text| format!("<p>{text}.</p>")))
        }),
        1 => Just(Delta::Back),
        1 => Just(Delta::Settle),
        2 => (1u32..8, called(), prop::option::of(called()))
            .prop_map(|(page, title, heading)| Delta::TitleAlone(page, format!("{title} | Sky Club"), heading)),
        1 => Just(Delta::Sweep),
    ]
}

type Told = (u32, u32, usize, usize, u32, u64, PhraseUse);

/// All mentions with all that is counted of them.
fn mentions(book: &PhraseBook) -> Vec<Told> {
    let by = (1..8).flat_map(|page| book.mentions_by(PageId(page)));
    let tell = |m: strelm_core::phrases::Mention| {
        let standing = book.standing(m.phrase);
        (m.source.0, m.target().0, m.first, m.len, m.naming.anchors, m.share.to_bits(), standing)
    };
    let mut found: Vec<_> = by.map(tell).collect();
    found.sort_by_key(|told| (told.0, told.1, told.2, told.3));
    found
}

fn sweep(book: &mut PhraseBook) {
    book.uncount();
    while book.name_some(2) {}
    book.settle_languages();
    let counts = book.counts();
    let pages: Vec<_> = book.pages_with_prose().collect();
    pages.chunks(2).for_each(|some| book.count_into(&counts, some));
    assert!(book.put_counts(&counts));
}

proptest! {
    #[test]
    fn deltas_in_any_order_give_what_building_anew_gives(deltas in prop::collection::vec(delta(), 0..50)) {
        let mut book = PhraseBook::default();
        let mut titles: BTreeMap<u32, (String, Option<String>)> = BTreeMap::new();
        let mut prose: BTreeMap<u32, String> = BTreeMap::new();
        let mut away: Vec<(u32, Option<BookText>)> = Vec::new();
        for delta in deltas {
            match delta {
                Delta::Title(page, title, heading) => {
                    book.put_page(&facts(page, &title, heading.as_deref()));
                    titles.insert(page, (title, heading));
                }
                Delta::Prose(page, text) => {
                    // A page's text comes with or after the page itself.
                    if titles.contains_key(&page) {
                        away.retain(|(gone, _)| *gone != page);
                        let document = text.as_ref().map(|text| Document::from_html(text.as_str()));
                        book.put_prose(PageId(page), document.as_ref(), follow);
                        prose.remove(&page);
                        prose.extend(text.map(|text| (page, text)));
                    }
                }
                Delta::Remove(page) => {
                    book.remove_page(PageId(page));
                    titles.remove(&page);
                    prose.remove(&page);
                    away.retain(|(gone, _)| *gone != page);
                }
                Delta::Away(page, other) => {
                    if titles.contains_key(&page) && away.iter().all(|(gone, _)| *gone != page) {
                        let read = other.as_ref().map(|text| Document::from_html(text.as_str()));
                        let read = read.as_ref().map(|read| (read, ReadProse::of(read, Language::English)));
                        away.push((page, book.put_read(PageId(page), read, follow)));
                    }
                }
                Delta::Back => {
                    for (page, text) in away.drain(..) {
                        book.exchange(PageId(page), text);
                    }
                }
                Delta::Settle => book.settle(),
                Delta::TitleAlone(page, title, heading) => {
                    book.put_facts_alone(&facts(page, &title, heading.as_deref()), Vec::new());
                    titles.insert(page, (title, heading));
                }
                Delta::Sweep => sweep(&mut book),
            }
        }
        for (page, text) in away {
            book.exchange(PageId(page), text);
        }
        while book.name_some(1) {}
        book.settle();
        let mut anew = PhraseBook::default();
        titles.iter().for_each(|(page, (title, heading))| anew.put_page(&facts(*page, title, heading.as_deref())));
        for (page, text) in &prose {
            anew.put_prose(PageId(*page), Some(&Document::from_html(text.as_str())), follow);
        }
        anew.settle();
        prop_assert_eq!(mentions(&book), mentions(&anew));
        prop_assert_eq!(book.prose_count(), prose.len());
        for page in titles.keys() {
            let names = |book: &PhraseBook| -> Vec<_> {
                book.names(PageId(*page)).iter().map(|name| name.text.clone()).collect()
            };
            prop_assert_eq!(names(&book), names(&anew));
        }
    }
}

/// Titles and texts in three languages, each with a word of one of the titles.
const TONGUES: [(Language, &str, &str); 3] = [
    (
        Language::English,
        "Star charts",
        "Before you go out it is best to look at what we have to say of a star chart and where it is from, of \
         Sternkarten and of monturas ecuatoriales.",
    ),
    (
        Language::German,
        "Sternkarten",
        "Bevor man hinausgeht, sollte man lesen, was wir von einer Sternkarte und von der montura ecuatorial wissen, und \
         wo sie mit den star charts zu haben ist.",
    ),
    (
        Language::Spanish,
        "Monturas ecuatoriales",
        "Antes de salir conviene que lea lo que se dice de la montura ecuatorial, de una Sternkarte y del star chart que \
         hay en la sala.",
    ),
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn languages_that_come_one_after_the_other_are_those_of_a_site_that_had_them_from_the_start(
        pages in prop::collection::vec((0..TONGUES.len(), prop::bool::weighted(0.3)), 1..7),
        is_recognised in any::<bool>(),
    ) {
        let of = |number: u32, tongue: usize| {
            let (language, title, text) = TONGUES[tongue];
            // Where a page's own language is not known, its passages tell it.
            let language = if is_recognised { language } else { Language::English };
            let facts = PageFacts { language, ..facts(number, &format!("{title} {number}"), Some(title)) };
            (facts, Document::from_html(format!("<p>{text}</p>")))
        };
        let (mut book, mut anew) = (PhraseBook::default(), PhraseBook::default());
        for (number, (tongue, settles)) in (1..).zip(&pages) {
            let (facts, document) = of(number, *tongue);
            for book in [&mut book, &mut anew] {
                book.put_page(&facts);
                book.put_prose(facts.id, Some(&document), follow);
            }
            if *settles {
                book.settle();
            }
        }
        book.settle();
        anew.settle();
        prop_assert_eq!(mentions(&book), mentions(&anew));
        let named = |name: &str| pages.iter().any(|(tongue, _)| TONGUES[*tongue].1 == name);
        if named("Star charts") && named("Sternkarten") {
            let german = (1..).zip(&pages).find(|(_, (tongue, _))| *tongue == 1).map(|(number, _)| number);
            let found = mentioned(&book, PageId(german.unwrap()));
            prop_assert!(found.iter().any(|(words, ..)| words == "star charts"), "{:?}", found);
        }
    }
}

#[test]
fn title_and_heading_name_a_page_and_sentences_do_not() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Choosing eyepieces", Some("Eyepieces")));
    book.put_page(&facts(2, "The", None));
    book.put_page(&facts(3, "How we built a telescope out of what we found in the barn", Some("A barn telescope")));
    book.put_page(&facts(4, "Seeing", Some("seeing")));
    let names = |page| -> Vec<_> {
        let said = book.names(PageId(page)).iter().filter(|name| !name.source.is_guess());
        said.map(|name| (name.text.as_ref(), name.source)).collect()
    };
    assert_eq!(names(1), [("Choosing eyepieces", NameSource::Title), ("Eyepieces", NameSource::Heading)]);
    assert_eq!(names(2), []);
    assert_eq!(names(3), [("A barn telescope", NameSource::Heading), ("barn telescope", NameSource::Part)]);
    assert_eq!(names(4), [("Seeing", NameSource::Title)], "the same words are one name");
}

#[test]
fn names_of_code_are_taken_whole_and_from_ids() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "git-rev-list(1)", Some("git-rev-list(1) Manual Page")));
    book.put_page(&facts(2, "Paths", None));
    let html = "<p id=os.sep><b>BACKGROUND</b> <b>Separators</b></p><dl><dt id=os.path.join>function join(a)<dd>Joins.</dl>\
                <table><tr><td><code>split</code> (text)<td>Parts.</table><h2 id=sect.intro>How it began</h2>";
    book.put_prose(PageId(2), Some(&Document::from_html(html)), follow);
    let names = |page| -> Vec<(&str, NameSource)> {
        book.names(PageId(page)).iter().map(|name| (name.text.as_ref(), name.source)).collect()
    };
    let (of_page, of_paths) = (names(1), names(2));
    assert!(of_page.contains(&("git-rev-list", NameSource::Title)), "{of_page:?}");
    assert!(!of_page.iter().any(|(text, _)| ["git-rev", "rev-list"].contains(text)), "{of_page:?}");
    for expected in [
        ("os.path.join", NameSource::Term),
        ("join", NameSource::Term),
        ("split", NameSource::Term),
        ("BACKGROUND Separators", NameSource::Section),
    ] {
        assert!(of_paths.contains(&expected), "{expected:?} {of_paths:?}");
    }
    assert!(!of_paths.iter().any(|(text, _)| *text == "intro"), "an id that says something else: {of_paths:?}");
}

#[test]
fn numbers_of_versions_and_code_before_an_apostrophe_are_named() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Map Release 3.6.1 of 2026-08-06", None));
    book.put_page(&facts(2, "Charts 1.8", None));
    book.put_page(&facts(3, "mod_cgi", None));
    book.put_page(&facts(5, "d.his", None));
    book.put_page(&facts(4, "Changes", None));
    // A link on a part of a longer number would say another one than is meant.
    let html = "<p>Since 3.6.10, Release 3.6.1 and 1.8 of Charts 1.8: <code>mod_cgi</code>'s, d.his, d. his. Nor is it \
                Release 3.6.1.2 or 4.3.6.1, but it is 3.6.1.";
    book.put_prose(PageId(4), Some(&Document::from_html(html)), follow);
    let text = book.prose(PageId(4)).unwrap().text();
    let tokens = book.prose(PageId(4)).unwrap().tokens();
    let found: Vec<_> = book
        .mentions_by(PageId(4))
        .iter()
        .map(|mention| {
            let (first, last) = (tokens[mention.first].span(), tokens[mention.end() - 1].span());
            (&text[first.start..last.end], mention.target().0)
        })
        .collect();
    assert_eq!(
        found,
        [("Release 3.6.1", 1), ("3.6.1", 1), ("Charts 1.8", 2), ("mod_cgi", 3), ("d.his", 5), ("3.6.1", 1)]
    );
}

/// Targets named on a page, with the words.
fn named(book: &PhraseBook, page: u32) -> Vec<(String, u32)> {
    let said = |source: &Option<NameSource>| source.is_none_or(|source| !source.is_guess());
    let found = mentioned(book, PageId(page)).into_iter().filter(|(.., source)| said(source));
    found.map(|(words, target, _)| (words, target.0)).collect()
}

#[test]
fn marks_around_a_word_of_code_do_not_hide_what_it_names() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "__len__", None));
    book.put_page(&facts(2, "Start", None));
    let html = "<p>Ask <code>__len__</code>, or <code>__len__()</code>.</p>";
    book.put_prose(PageId(2), Some(&Document::from_html(html)), follow);
    assert_eq!(named(&book, 2), [("__len__".to_owned(), 1), ("__len__()".to_owned(), 1)]);
}

#[test]
fn a_passage_is_read_in_its_own_language_and_titles_are_known_in_those_of_the_site() {
    let mut book = PhraseBook::default();
    // Its text is not translated yet, so it was taken for English; its title is.
    book.put_page(&facts(1, "Monturas ecuatoriales", None));
    book.put_page(&facts(2, "Star charts", None));
    let spanish = "Antes de salir conviene que lea lo que se dice de la montura ecuatorial y de los mapas que hay.";
    let english = "Before you go out it is best to look at what we have to say of a star chart and where it is from.";
    let mixed = Document::from_html(format!("<p>{spanish}</p><p>{english}</p>"));
    let spanish_page = PageFacts { language: Language::Spanish, ..facts(3, "Antes de salir", None) };
    book.put_page(&spanish_page);
    book.put_prose(PageId(3), Some(&mixed), follow);
    assert_eq!(named(&book, 3), [("star chart".to_owned(), 2)], "the English passage has English stems");
    book.speaks(Language::Spanish);
    let both = [("montura ecuatorial".to_owned(), 1), ("star chart".to_owned(), 2)];
    assert_eq!(named(&book, 3), both);

    // The same without being told, since passages are in that language.
    let mut told_by_passages = PhraseBook::default();
    // The same when the passages come to a site that is counted.
    let mut told_later = PhraseBook::default();
    for facts in [facts(1, "Monturas ecuatoriales", None), facts(2, "Star charts", None), spanish_page] {
        told_by_passages.put_page(&facts);
        told_later.put_page(&facts);
    }
    let start = Document::from_html(format!("<p>{english}</p>"));
    told_later.put_prose(PageId(2), Some(&start), follow);
    told_later.settle();
    told_later.put_prose(PageId(3), Some(&mixed), follow);
    told_later.settle();
    told_by_passages.put_prose(PageId(2), Some(&start), follow);
    book.put_prose(PageId(2), Some(&start), follow);
    told_by_passages.put_prose(PageId(3), Some(&mixed), follow);
    told_by_passages.settle();
    assert_eq!(named(&told_by_passages, 3), both);
    book.settle();
    let standing = |book: &PhraseBook| {
        let found = [1, 2, 3].into_iter().flat_map(|page| book.mentions_by(PageId(page)));
        found.map(|mention| (mention.first, mention.target(), book.standing(mention.phrase))).collect::<Vec<_>>()
    };
    assert!(!standing(&book).is_empty());
    assert_eq!(standing(&book), standing(&told_by_passages), "what stands where is counted once");
    assert_eq!(standing(&book), standing(&told_later), "and anew");
}

#[test]
fn listed_phrases_name_their_page_until_they_are_taken_back() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Torches", None));
    book.put_page(&facts(2, "Dark adaptation", None));
    book.put_prose(PageId(2), Some(&Document::from_html("<p>Wait in red light before you look.</p>")), follow);
    assert_eq!(mentions(&book), []);
    book.put_phrases(PageId(1), vec!["red light".to_owned(), "the".to_owned()]);
    let found = book.mentions_by(PageId(2));
    assert_eq!((found.len(), found[0].target(), found[0].naming.source), (1, PageId(1), Some(NameSource::Listed)));
    book.put_phrases(PageId(1), Vec::new());
    assert_eq!(mentions(&book), []);
}

#[test]
fn counts_of_a_book_that_changed_meanwhile_are_not_taken() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Dark sky", None));
    book.put_page(&facts(2, "Moon", None));
    let read = |text: &str| Document::from_html(text.to_owned());
    book.put_prose(PageId(2), Some(&read("<p>The dark sky.")), follow);
    let counts = book.counts();
    book.count_into(&counts, &[PageId(2)]);
    book.put_prose(PageId(2), Some(&read("<p>The moon.")), follow);
    assert!(!book.put_counts(&counts), "a text changed");
    let counts = book.counts();
    book.count_into(&counts, &[PageId(2)]);
    book.put_page(&facts(3, "Morning star", None));
    assert!(!book.put_counts(&counts), "a phrase is new");
    assert!(!book.is_counted());
}
