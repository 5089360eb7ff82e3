//! Pages of a made-up site, as tests need them.

// Each test has this for itself and uses a part of it.
#![allow(dead_code, clippy::unwrap_used)]

pub mod ground;
pub mod world;

use strelm_core::document::{Document, LinkMarks, Region};
use strelm_core::language::Language;
use strelm_core::phrases::{NameSource, PhraseBook};
use strelm_core::site::{Address, OutLink, PageFacts, PageId, PageKind, Site, Standing};

pub fn address(number: u32) -> Address {
    follow(&format!("/{number}")).unwrap()
}

/// Where a link from the root of the site leads.
pub fn follow(href: &str) -> Option<Address> {
    Address::parse(&format!("https://site.example{href}")).ok()
}

/// A page in English under the address of its number.
pub fn page(number: u32, title: &str) -> PageFacts {
    PageFacts {
        id: PageId(number),
        address: address(number),
        kind: PageKind::Page,
        title: title.to_owned(),
        heading: None,
        category: None,
        words: 0,
        language: Language::English,
        editable: true,
        standing: Standing::default(),
    }
}

/// A site of pages with titles and content, numbered from 1, in a language.
pub fn site_in(language: Language, pages: &[(&str, &str)]) -> (Site, PhraseBook) {
    let mut site = Site::new(address(1));
    let mut book = PhraseBook::default();
    for (number, (title, html)) in (1..).zip(pages) {
        let facts = PageFacts { language, ..page(number, title) };
        let document = Document::from_html(*html);
        let links: Vec<_> = document
            .links()
            .iter()
            .map(|link| OutLink {
                to: follow(&link.href).unwrap(),
                region: Region::Content,
                marks: LinkMarks::default(),
            })
            .collect();
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&document), follow);
        site.put_page(facts, &links);
    }
    site.settle();
    book.settle();
    (site, book)
}

/// What a page mentions, in the order of its words: the words, the page that they name, and how.
pub fn mentioned(book: &PhraseBook, page: PageId) -> Vec<(String, PageId, Option<NameSource>)> {
    let prose = book.prose(page).unwrap();
    let shown = |first: usize, end: usize| {
        let (first, last) = (prose.tokens()[first].span(), prose.tokens()[end - 1].span());
        prose.text()[first.start..last.end].to_owned()
    };
    let found = book.mentions_by(page).into_iter();
    found.map(|mention| (shown(mention.first, mention.end()), mention.target(), mention.naming.source)).collect()
}
