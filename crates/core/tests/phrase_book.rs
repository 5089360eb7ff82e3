//! The phrase book after deltas is the phrase book built anew; and each part of a fit says why it is what it is.

#![allow(clippy::unwrap_used)]

use std::collections::BTreeMap;

use proptest::prelude::*;
use strelm_core::document::Document;
use strelm_core::language::Language;
use strelm_core::openings::{Fit, Limits, Part, Reason, inbound};
use strelm_core::phrases::{NameSource, PhraseBook};
use strelm_core::site::{Address, OutLink, PageFacts, PageId, PageKind, Site, Standing};

fn facts(number: u32, title: &str, heading: Option<&str>) -> PageFacts {
    PageFacts {
        id: PageId(number),
        address: Address::parse(&format!("https://site.example/{number}")).unwrap(),
        kind: PageKind::Page,
        title: title.to_owned(),
        heading: heading.map(str::to_owned),
        category: None,
        words: 0,
        language: Language::English,
        editable: true,
        standing: Standing::default(),
    }
}

#[derive(Debug, Clone)]
enum Delta {
    Title(u32, String),
    Prose(u32, Option<String>),
}

fn words(most: usize) -> impl Strategy<Value = String> {
    let word = prop::sample::select(vec!["moon", "moons", "dark", "sky", "the", "star", "Club"]);
    prop::collection::vec(word, 1..=most).prop_map(|words| words.join(" "))
}

fn delta() -> impl Strategy<Value = Delta> {
    prop_oneof![
        (1u32..6, words(3), any::<bool>()).prop_map(|(page, title, with_site)| {
            Delta::Title(page, if with_site { format!("{title} | Sky Club") } else { title })
        }),
        (1u32..6, prop::option::weighted(0.8, words(12)))
            .prop_map(|(page, text)| Delta::Prose(page, text.map(|text| format!("<p>{text}.</p>")))),
    ]
}

fn mentions(book: &PhraseBook) -> Vec<(u32, u32, usize, String)> {
    let by = (1..6).flat_map(|page| book.mentions_by(PageId(page)));
    let mut found: Vec<_> = by.map(|m| (m.source.0, m.target.0, m.token, m.name.text)).collect();
    found.sort();
    found
}

proptest! {
    #[test]
    fn deltas_in_any_order_give_what_building_anew_gives(deltas in prop::collection::vec(delta(), 0..30)) {
        let mut book = PhraseBook::default();
        let mut titles: BTreeMap<u32, String> = BTreeMap::new();
        let mut prose: BTreeMap<u32, String> = BTreeMap::new();
        for delta in deltas {
            match delta {
                Delta::Title(page, title) => {
                    book.put_page(&facts(page, &title, None));
                    titles.insert(page, title);
                }
                Delta::Prose(page, text) => {
                    // A page's text comes with or after the page itself.
                    if titles.contains_key(&page) {
                        let document = text.as_ref().map(|text| Document::from_html(text.as_str()));
                        book.put_prose(PageId(page), document.as_ref());
                        prose.remove(&page);
                        prose.extend(text.map(|text| (page, text)));
                    }
                }
            }
        }
        let mut anew = PhraseBook::default();
        titles.iter().for_each(|(page, title)| anew.put_page(&facts(*page, title, None)));
        prose.iter().for_each(|(page, text)| anew.put_prose(PageId(*page), Some(&Document::from_html(text.as_str()))));
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

#[test]
fn title_and_heading_name_a_page_and_sentences_do_not() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Choosing eyepieces", Some("Eyepieces")));
    book.put_page(&facts(2, "The", None));
    book.put_page(&facts(3, "How we built a telescope out of what we found in the barn", Some("A barn telescope")));
    book.put_page(&facts(4, "Seeing", Some("seeing")));
    let names = |page| -> Vec<_> { book.names(PageId(page)).iter().map(|n| (n.text.as_str(), n.source)).collect() };
    assert_eq!(names(1), [("Choosing eyepieces", NameSource::Title), ("Eyepieces", NameSource::Heading)]);
    assert_eq!(names(2), []);
    assert_eq!(names(3), [("A barn telescope", NameSource::Heading)]);
    assert_eq!(names(4), [("Seeing", NameSource::Title)], "the same words are one name");
}

#[test]
fn listed_phrases_name_their_page_until_they_are_taken_back() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Red torch", None));
    book.put_page(&facts(2, "Dark adaptation", None));
    book.put_prose(PageId(2), Some(&Document::from_html("<p>Wait in red light before you look.</p>")));
    assert_eq!(mentions(&book), []);
    book.put_phrases(PageId(1), vec!["red light".to_owned(), "the".to_owned()]);
    let found = book.mentions_by(PageId(2));
    assert_eq!((found.len(), found[0].target, found[0].name.source), (1, PageId(1), NameSource::Listed));
    book.put_phrases(PageId(1), Vec::new());
    assert_eq!(mentions(&book), []);
}

/// The fit of the one opening from the first page to the second.
fn fit_of(pages: &[(&str, &str)], links: &[(u32, u32)]) -> Option<Fit> {
    let mut site = Site::new(Address::parse("https://site.example/1").unwrap());
    let mut book = PhraseBook::default();
    for (number, (title, html)) in (1..).zip(pages) {
        let facts = facts(number, title, None);
        let to = links.iter().filter(|(from, _)| *from == number);
        let links: Vec<_> = to
            .map(|(_, to)| OutLink {
                to: Address::parse(&format!("https://site.example/{to}")).unwrap(),
                region: strelm_core::document::Region::Content,
            })
            .collect();
        site.put_page(facts.clone(), &links);
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&Document::from_html(*html)));
    }
    site.settle();
    let found = inbound(&site, &book, PageId(2), |_, _| false, Limits::default());
    found.into_iter().find(|opening| opening.source == PageId(1)).map(|opening| opening.fit)
}

fn reasons(fit: &Fit, part: Part) -> &[Reason] {
    &fit.parts.iter().find(|score| score.part == part).unwrap().reasons
}

const REST: &str = "<p>Other words fill the rest of this page, so that the place of the first is early among them.</p>";

#[test]
fn a_page_in_need_is_told_from_one_that_has_links() {
    let pages = [
        ("Start", "<p>Polar alignment takes patience.</p>"),
        ("Polar alignment", "<p>Point the axis.</p>"),
        ("Third", "<p>x</p>"),
        ("Fourth", "<p>y</p>"),
        ("Fifth", "<p>z</p>"),
    ];
    let needs = |links: &[(u32, u32)]| reasons(&fit_of(&pages, links).unwrap(), Part::Need).to_vec();
    assert_eq!(needs(&[]), [Reason::TargetIsOrphan]);
    assert_eq!(needs(&[(3, 2)]), [Reason::TargetUnreachable]);
    assert_eq!(needs(&[(1, 3), (3, 2)]), [Reason::TargetHangsOnOnePage]);
    assert_eq!(needs(&[(1, 3), (3, 2), (1, 4), (4, 2)]), [Reason::TargetHasFewLinks { pages: 2 }]);
    let many = [(1, 3), (3, 2), (1, 4), (4, 2), (1, 5), (5, 2)];
    assert_eq!(needs(&many), [Reason::TargetHasLinks { pages: 3 }]);
    let strength = |links: &[(u32, u32)]| fit_of(&pages, links).unwrap().total();
    assert!(strength(&[]) > strength(&many));
}

#[test]
fn a_single_word_in_another_form_is_not_offered() {
    let target = ("Seeing", "<p>The air dances.</p>");
    assert!(fit_of(&[("Start", "<p>We wait for good seeing.</p>"), target], &[]).is_some());
    let weak = fit_of(
        &[("Start", "<p>We see it well.</p>"), target, ("A", "<p>see</p>"), ("B", "<p>see</p>")],
        &[(3, 2), (4, 2), (1, 3), (1, 4)],
    );
    assert!(weak.is_none(), "{weak:?}");
}

#[test]
fn an_ambiguous_name_loses_variety() {
    let start = ("Start", "<p>The open evening is on Saturday.</p>");
    let clear = fit_of(&[start, ("Open evening", "<p>x</p>")], &[]).unwrap();
    let twice = fit_of(&[start, ("Open evening", "<p>x</p>"), ("Open evenings", "<p>y</p>")], &[]).unwrap();
    assert_eq!(reasons(&clear, Part::Variety), [Reason::NamesOnlyThisPage]);
    assert_eq!(reasons(&twice, Part::Variety), [Reason::NamesOtherPagesToo { pages: 1 }]);
    assert!(clear.total() > twice.total());
}

#[test]
fn a_place_in_prose_beats_one_in_a_table_or_a_quotation() {
    let place = |html: &str| {
        let html = format!("{html}{REST}");
        let fit = fit_of(&[("Start", &html), ("Star hopping", "<p>x</p>")], &[]).unwrap();
        (reasons(&fit, Part::Place).to_vec(), fit.total())
    };
    let (prose, best) = place("<p>Try star hopping.</p>");
    let (table, in_table) = place("<table><tr><td>star hopping</td></tr></table>");
    let (quote, in_quote) = place("<blockquote>star hopping</blockquote>");
    assert_eq!(prose, [Reason::EarlyOnPage]);
    assert_eq!(table, [Reason::EarlyOnPage, Reason::TableOrCaption]);
    assert_eq!(quote, [Reason::EarlyOnPage, Reason::InsideQuotation]);
    assert!(best > in_table && in_table > in_quote);
    let late = format!("{REST}<p>star hopping</p>");
    let late = fit_of(&[("Start", &late), ("Star hopping", "<p>x</p>")], &[]).unwrap();
    assert_eq!(reasons(&late, Part::Place), [Reason::LateOnPage]);
}

#[test]
fn every_reason_is_a_sentence() {
    let all = [
        Reason::SameTopic,
        Reason::RelatedTopic,
        Reason::OtherTopic,
        Reason::NoTextToCompare,
        Reason::WholeTitle,
        Reason::WholeHeading,
        Reason::SingleWord,
        Reason::OtherForm,
        Reason::CommonWords { pages: 12 },
        Reason::EarlyOnPage,
        Reason::MidPage,
        Reason::LateOnPage,
        Reason::NamedBefore,
        Reason::TableOrCaption,
        Reason::InsideQuotation,
        Reason::TargetIsOrphan,
        Reason::TargetUnreachable,
        Reason::TargetHangsOnOnePage,
        Reason::TargetHasFewLinks { pages: 0 },
        Reason::TargetHasFewLinks { pages: 1 },
        Reason::TargetHasFewLinks { pages: 2 },
        Reason::TargetHasLinks { pages: 7 },
        Reason::NamesOnlyThisPage,
        Reason::NamesOtherPagesToo { pages: 1 },
        Reason::NamesOtherPagesToo { pages: 3 },
    ];
    for reason in all {
        let text = reason.to_string();
        assert!(text.starts_with(char::is_uppercase) && text.ends_with('.'), "{text}");
        assert!(!text.contains("1 pages"), "{text}");
    }
    assert!((Part::ALL.iter().map(|part| part.weight()).sum::<f64>() - 100.0).abs() < 1e-9);
}
