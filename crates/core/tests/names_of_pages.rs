//! Which words of a text name which page.

#![allow(clippy::unwrap_used)]

mod support;

use strelm_core::language::Language;
use strelm_core::phrases::{NameSource, PhraseBook};
use strelm_core::site::PageId;

use self::support::{mentioned, site_in};

/// What the first page mentions: the words, the page that they name, and how.
fn mentions(book: &PhraseBook) -> Vec<(String, u32, NameSource)> {
    mentioned(book, PageId(1)).into_iter().map(|(words, page, source)| (words, page.0, source.unwrap())).collect()
}

/// A site whose first page says something, with others beside those that are given.
fn book_of(start: &str, pages: &[(&str, &str)]) -> PhraseBook {
    let others = vec![("Page", "<p>Nothing of it.</p>"); 20];
    let all: Vec<_> = [("Start", start)].into_iter().chain(pages.iter().copied()).chain(others).collect();
    site_in(Language::English, &all).1
}

#[test]
fn a_part_of_a_title_is_a_name_though_many_sections_are_called_like_it() {
    let section = ("Tube", "<p>x</p><h2>Primary mirrors</h2><p>y</p>");
    let with_sections = |count: usize, titles: &[(&'static str, &'static str)]| {
        let pages: Vec<_> = titles.iter().copied().chain(vec![section; count]).collect();
        let found = mentions(&book_of("<p>Wash primary mirrors seldom.</p>", &pages));
        found.into_iter().map(|(_, page, source)| (page, source)).collect::<Vec<_>>()
    };
    let part = ("List of primary mirrors", "<p>x</p>");
    assert_eq!(with_sections(2, &[part]), [(2, NameSource::Part), (3, NameSource::Section), (4, NameSource::Section)]);
    assert_eq!(with_sections(6, &[part]), [(2, NameSource::Part)], "so many sections name nothing");
    assert_eq!(with_sections(6, &[part; 12]).len(), 12);
    assert_eq!(with_sections(6, &[part; 13]), [], "nor do so many titles");
}

#[test]
fn a_piece_of_code_is_a_name_without_its_marks() {
    let pages = [("Depth task", "<p>x</p>"), ("Mask task", "<p>x</p>")];
    let tasks = vec![("Other task", "<p>x</p>"); 5];
    let pages: Vec<_> = pages.into_iter().chain(tasks).collect();
    let found = mentions(&book_of("<p>Put <code>&lt;depth&gt;</code> into it, or <code>--mask</code>.</p>", &pages));
    let part = NameSource::Part;
    assert_eq!(found, [("<depth>".to_owned(), 2, part), ("--mask".to_owned(), 3, part)]);
}

#[test]
fn a_word_of_a_short_title_names_its_page_where_nothing_else_has_that_name() {
    let found = |title: &'static str, other: (&'static str, &'static str)| {
        mentions(&book_of("<p>Then press Demote, or demote it there.</p>", &[(title, "<p>x</p>"), other]))
    };
    let page = ("Tube", "<p>y</p>");
    assert_eq!(found("Demote outline level", page), [("Demote".to_owned(), 2, NameSource::Word)]);
    let own = ("Demote", "<p>y</p>");
    let title = |words: &str| (words.to_owned(), 3, NameSource::Title);
    assert_eq!(found("Demote outline level", own), [title("Demote"), title("demote")]);
    assert_eq!(
        found("Here you learn how to demote any level of an outline", page),
        [],
        "a long title is not about each"
    );
}

#[test]
fn a_word_of_a_title_means_no_page_inside_of_a_longer_name() {
    let start = "<p>All Double Stars are bright, and Double Glass is warm.</p>";
    let book = book_of(start, &[("Double glass windows", "<p>x</p>"), ("Double stars", "<p>y</p>")]);
    let own = ("Double Stars".to_owned(), 3, NameSource::Title);
    assert_eq!(mentions(&book)[0], own, "no “double” of windows");
    assert!(
        mentions(&book).iter().all(|(words, ..)| words != "Double" && words != "double"),
        "it is a part of “double glass”"
    );
}

#[test]
fn the_name_of_the_site_is_no_word_of_its_titles() {
    let titles =
        ["Moon over Larkmoor | Larkmoor Club", "Sun | Larkmoor Club", "Stars | Larkmoor Club", "Map | Larkmoor Club"];
    let pages: Vec<_> = [("Start", "<p>In Larkmoor we saw the moon.</p>")]
        .into_iter()
        .chain(titles.map(|title| (title, "<p>x</p>")))
        .collect();
    let (_, book) = site_in(Language::English, &pages);
    let words: Vec<_> = book.names(PageId(2)).iter().filter(|name| name.source == NameSource::Word).collect();
    assert_eq!(words.iter().map(|name| name.text.as_str()).collect::<Vec<_>>(), ["Moon"]);
}

#[test]
fn what_stands_between_brackets_before_an_entry_names_its_page() {
    let entries = "<p id=k>[KEPLER11] <em>Dioptrice</em>, Augsburg 1611.</p><p>[ ] not yet</p><p>[see there] x</p>";
    let book = book_of("<p>It turns the picture [KEPLER11], not yet see there.</p>", &[("Books", entries)]);
    assert_eq!(mentions(&book), [("KEPLER11".to_owned(), 2, NameSource::Term)]);
    let mut names = book.names(PageId(2)).iter().filter(|name| name.source == NameSource::Term);
    assert_eq!(names.next().unwrap().place.as_ref().map(|place| &*place.id), Some("k"));
}
