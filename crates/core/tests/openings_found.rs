//! Mentions and openings: the two directions agree with each other and with a plain search of the text.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use strelm_core::document::{Document, Region};
use strelm_core::language::Language;
use strelm_core::openings::{Limits, inbound, outbound};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{Address, OutLink, PageFacts, PageId, PageKind, Site, Standing};

fn facts(number: u32, title: &str) -> PageFacts {
    PageFacts {
        id: PageId(number),
        address: Address::parse(&format!("https://site.example/{number}")).unwrap(),
        kind: PageKind::Page,
        title: title.to_owned(),
        heading: None,
        category: None,
        words: 0,
        language: Language::Other,
        editable: true,
        standing: Standing::default(),
    }
}

fn site_of(pages: &[(&str, &str)]) -> (Site, PhraseBook) {
    let mut site = Site::new(Address::parse("https://site.example/1").unwrap());
    let mut book = PhraseBook::default();
    for (number, (title, html)) in (1..).zip(pages) {
        let facts = facts(number, title);
        let document = Document::from_html(*html);
        let links: Vec<_> = document
            .links()
            .iter()
            .map(|link| OutLink {
                to: Address::parse(&format!("https://site.example{}", link.href)).unwrap(),
                region: Region::Content,
            })
            .collect();
        site.put_page(facts.clone(), &links);
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&document));
    }
    site.settle();
    (site, book)
}

fn no_pass(_: PageId, _: PageId) -> bool {
    false
}

const WORDS: [&str; 5] = ["moon", "dark", "sky", "tube", "star"];

fn phrase(most: usize) -> impl Strategy<Value = Vec<&'static str>> {
    prop::collection::vec(prop::sample::select(WORDS.to_vec()), 1..=most)
}

proptest! {
    #[test]
    fn mentions_are_those_of_a_plain_search(
        titles in prop::collection::vec(phrase(3), 2..6),
        texts in prop::collection::vec(phrase(14), 6),
    ) {
        let titles: Vec<_> = titles.iter().map(|words| words.join(" ")).collect();
        let texts: Vec<_> = texts.iter().map(|words| format!("<p>{}</p>", words.join(" "))).collect();
        let pages: Vec<_> = titles.iter().map(String::as_str).zip(texts.iter().map(String::as_str)).collect();
        let (_, book) = site_of(&pages);
        let mut expected = Vec::new();
        for (source, (_, html)) in (1..).zip(&pages) {
            let words: Vec<_> = html[3..html.len() - 4].split(' ').collect();
            let mut matches = Vec::new();
            for (target, title) in (1..).zip(&titles) {
                let name: Vec<_> = title.split(' ').collect();
                for at in 0..words.len() {
                    if target != source && words[at..].starts_with(&name) {
                        matches.push((source, target, at, name.len()));
                    }
                }
            }
            let covered = |m: &(u32, u32, usize, usize)| {
                matches.iter().any(|o| o.3 > m.3 && o.2 < m.2 + m.3 && m.2 < o.2 + o.3)
            };
            expected.extend(matches.iter().filter(|m| !covered(m)).copied());
        }
        let flat = |mentions: Vec<strelm_core::phrases::Mention>| -> Vec<_> {
            mentions.into_iter().map(|m| (m.source.0, m.target.0, m.token, m.name.terms.len())).collect()
        };
        let ids = || (1..).take(pages.len()).map(PageId);
        let mut by: Vec<_> = ids().flat_map(|page| flat(book.mentions_by(page))).collect();
        let mut of: Vec<_> = ids().flat_map(|page| flat(book.mentions_of(page, usize::MAX))).collect();
        by.sort_unstable();
        of.sort_unstable();
        expected.sort_unstable();
        prop_assert_eq!(&by, &expected);
        prop_assert_eq!(&of, &expected);
    }
}

#[test]
fn an_orphan_finds_the_words_that_name_it() {
    let (site, book) = site_of(&[
        ("Start", "<p>Welcome.</p>"),
        ("Averted vision", "<p>Look beside the object.</p>"),
        ("Galaxies", "<h2>Averted vision</h2><p>Faint arms need <em>averted vision</em>. Patience, too.</p>"),
        ("Code", "<pre>averted vision</pre><p>Try <code>averted vision</code> or <a href='/3'>averted vision</a>.</p>"),
    ]);
    let found = inbound(&site, &book, PageId(2), no_pass, Limits::default());
    assert_eq!(found.len(), 1);
    let text = book.prose(PageId(3)).unwrap().text();
    assert_eq!(&text[found[0].words.range()], "averted vision");
    assert_eq!(&text[found[0].sentence.range()], "Faint arms need averted vision.");
    let total = found[0].fit.total();
    assert!((0.0..=100.0).contains(&total));
    let sum: f64 = found[0].fit.parts.iter().map(|p| p.strength * p.part.weight()).sum();
    assert!((sum - total).abs() < 1e-9, "the parts are all there is");
}

#[test]
fn a_page_that_links_already_or_was_passed_is_not_offered() {
    let (mut site, book) = site_of(&[
        ("Start", "<p>Polar alignment matters.</p>"),
        ("Polar alignment", "<p>Point the axis at the pole.</p>"),
        ("Mounts", "<p><a href='/2'>Here</a> we do polar alignment.</p>"),
    ]);
    let sources = |site: &Site| -> Vec<u32> {
        inbound(site, &book, PageId(2), no_pass, Limits::default()).iter().map(|o| o.source.0).collect()
    };
    assert_eq!(sources(&site), [1]);
    let passed = |source: PageId, _| source == PageId(1);
    assert!(inbound(&site, &book, PageId(2), passed, Limits::default()).is_empty());
    site.plan(strelm_core::site::ChangeId(1), PageId(1), PageId(2));
    assert!(sources(&site).is_empty(), "what is in the tray is not offered again");
    site.unplan(strelm_core::site::ChangeId(1));
    assert_eq!(sources(&site), [1]);
}

#[test]
fn one_page_never_offers_the_same_words_twice() {
    let (site, book) = site_of(&[
        ("Start", "<p>The finder scope helps. A red dot finder helps more. The finder again.</p>"),
        ("Finder scope", "<p>x</p>"),
        ("Finder", "<p>x</p>"),
        ("Red dot finder", "<p>x</p>"),
    ]);
    let found = outbound(&site, &book, PageId(1), no_pass, Limits::default());
    let text = book.prose(PageId(1)).unwrap().text();
    let mut words: Vec<_> = found.iter().map(|o| (o.target.0, &text[o.words.range()], o.words.start)).collect();
    words.sort_unstable();
    assert_eq!(words, [(2, "finder scope", 4), (3, "finder", 57), (4, "red dot finder", 26)]);
}
