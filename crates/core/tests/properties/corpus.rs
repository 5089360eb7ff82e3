//! A site read as a whole: in one go or in stretches, with the documents in memory or read twice.

use std::convert::Infallible;

use proptest::prelude::*;
use strelm_core::document::Document;
use strelm_core::language::Language;
use strelm_core::openings::{Corpus, CorpusPage};
use strelm_core::phrases::Mention;
use strelm_core::site::{Address, Figures, PageId};

const WORDS: [&str; 9] = ["moon", "dark sky", "the", "mirror", "star map", "a red torch", "cold", "tube", "eyepiece"];

/// What stands in a file; `None` is one that is no page.
type File = Option<String>;

fn address(at: usize) -> Address {
    let path = if at == 0 { "index.html".to_owned() } else { format!("{at}.html") };
    Address::parse(&format!("https://site.example/{path}")).unwrap()
}

fn file() -> impl Strategy<Value = File> {
    let words = |most| prop::collection::vec(prop::sample::select(WORDS.to_vec()), 1..most);
    let links = prop::collection::vec((0usize..9, prop::sample::select(WORDS.to_vec())), 0..3);
    let page = (words(4), words(30), links).prop_map(|(title, text, links)| {
        let links: String = links.iter().map(|(to, words)| format!(" See <a href='{to}.html'>{words}</a>.")).collect();
        let (title, text) = (title.join(" "), text.join(" "));
        format!(
            "<html lang=en><title>{title} | Sky Club</title><nav><a href='index.html'>Start</a></nav><h1>{title}</h1>\
             <p>{text}.{links}</p><p>All texts of the club may be copied by anybody who names it.</p>"
        )
    });
    prop::option::weighted(0.9, page)
}

/// More than are read at a time, now and then.
fn files() -> impl Strategy<Value = Vec<File>> {
    prop_oneof![4 => prop::collection::vec(file(), 1..12), 1 => prop::collection::vec(file(), 130..140)]
}

fn page_of(at: usize, file: &File) -> Option<CorpusPage> {
    let html = file.as_ref()?;
    Some(CorpusPage { address: address(at), document: Document::from_html(html.as_str()) })
}

/// All that is known of each page.
fn told(corpus: &Corpus) -> Vec<(String, Language, Option<Figures>, Vec<Mention>)> {
    let pages = corpus.site.pages();
    pages
        .map(|page| {
            let mentions = corpus.book.mentions_by(page.id);
            (page.address.to_string(), page.language, corpus.site.figures(page.id), mentions)
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn pages_that_are_read_twice_make_the_same_site_as_pages_in_memory(files in files()) {
        let places: Vec<_> = files.iter().enumerate().collect();
        let pages: Vec<_> = places.iter().filter_map(|(at, file)| page_of(*at, file)).collect();
        let there = places.iter().filter(|(_, file)| file.is_some()).map(|(at, _)| *at);
        let titles: Vec<_> = there.zip(pages.iter().map(|page| page.document.head().title.clone())).collect();
        let read = |(at, file): &(usize, &File)| {
            Ok::<_, Infallible>(page_of(*at, file).map(|page| (page, *at)))
        };
        let keep = |document: Document, at: usize| (at, document.head().title.clone());
        let (twice, kept) = Corpus::read(address(0), &places, read, keep).unwrap();
        let once = Corpus::of(address(0), pages);
        prop_assert_eq!(told(&twice), told(&once));
        prop_assert_eq!(kept, titles, "what is kept of pages comes in their order");
    }
}

#[test]
fn the_first_file_that_cannot_be_read_ends_it() {
    let page = |at| page_of(at, &Some("<p>x</p>".into())).map(|page| (page, ()));
    let read = |at: &usize| if *at == 3 { Err("the disk is gone") } else { Ok(page(*at)) };
    let ended = Corpus::read(address(0), &[0, 1, 2, 3], read, |_, ()| ()).map(|_| ());
    assert_eq!(ended, Err("the disk is gone"));
}

#[test]
fn a_folder_s_address_is_that_of_its_index_file() {
    let page = |path: &str, html: &str| CorpusPage {
        address: Address::parse(&format!("https://site.example/{path}")).unwrap(),
        document: Document::from_html(html),
    };
    let pages = vec![
        page(
            "index.html",
            "<title>Start</title><p>Of <a href=guides/>our guides</a> and <a href=none/>nothing</a>.</p>",
        ),
        page("guides/index.html", "<title>Guides</title><p><a href=../>Back</a></p>"),
    ];
    let corpus = Corpus::of(address(0), pages);
    let figures = |page| corpus.site.figures(PageId(page)).unwrap();
    assert_eq!((figures(2).links_in, figures(2).depth), (1, Some(1)));
    assert_eq!(figures(1).links_in, 1);
}

#[test]
fn what_stands_on_every_page_is_boilerplate_and_mentions_nothing() {
    let page = |at: usize| {
        let html = format!(
            "<title>Page {at}</title><p>A paragraph of its own, number {at}.</p><p>Read the star map before you come to us.</p>"
        );
        CorpusPage { address: address(at), document: Document::from_html(html) }
    };
    let mut pages: Vec<_> = (0..30).map(page).collect();
    let map = "<title>Star map</title><p>How to fold it.</p>";
    pages.push(CorpusPage { address: address(30), document: Document::from_html(map) });
    let own = "<title>Winter</title><p>Fold the star map before the frost.</p>";
    pages.push(CorpusPage { address: address(31), document: Document::from_html(own) });
    let corpus = Corpus::of(address(0), pages);
    let mentions = |page| corpus.book.mentions_by(PageId(page)).iter().filter(|m| m.target() == PageId(31)).count();
    assert_eq!((1..=30).map(mentions).sum::<usize>(), 0);
    assert_eq!(mentions(32), 1);
}

#[test]
fn a_word_is_as_common_as_in_the_language_of_the_site_in_which_it_is_most_common() {
    let page = |at: usize, language: &str, text: &str| {
        let html = format!("<html lang={language}><title>Page {at}</title><p>{text}</p>");
        CorpusPage { address: address(at), document: Document::from_html(html) }
    };
    let english = "We met many people on the hill when the stars were out and the air was still.";
    let german = "Wir haben auf dem Berg viele Menschen getroffen, und die Sterne waren schon da.";
    let common = |others: &str, other_text: &str, word: &str| {
        let mut pages = vec![page(0, "de", german)];
        pages.extend((1..6).map(|at| page(at, others, other_text)));
        Corpus::of(address(0), pages).book.commonness(PageId(1), word)
    };
    let rare = common("de", german, "people").unwrap();
    assert!(common("en", english, "people").unwrap() > rare + 1.0, "German pages speak of “people” there, too");
    assert!(common("de", german, "Menschen").unwrap() > rare + 1.0);
    assert_eq!(common("de", german, "Rotlichtlampe"), Some(rare.min(3.5)));
    // Of a language without a list nothing is known, but for what stands there of others.
    let mut pages = vec![page(0, "ja", "丘の上で星を見た。空気は静かだった。")];
    pages.extend((1..6).map(|at| page(at, "en", english)));
    let book = Corpus::of(address(0), pages).book;
    assert_eq!(book.commonness(PageId(1), "星"), None);
    assert!(book.commonness(PageId(1), "people").is_some());
    assert_eq!(book.commonness(PageId(2), "planisphere"), Some(3.5));
}
