//! A made-up site whose pages name each other in all kinds of places.

use std::collections::HashMap;

use proptest::prelude::*;
use strelm_core::document::{Document, LinkMarks, TextSpan};
use strelm_core::openings::{Limits, Unwanted};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{OutLink, PageFacts, PageId, Site};

use super::{address, follow, page};

pub const TITLES: [&str; 6] = ["Dark sky", "Moon", "Red torch", "Star atlas", "Dark adaptation", "Tube"];

/// What pages are made of: names of others, in places that take links and in places that do not.
pub fn piece() -> impl Strategy<Value = String> {
    let title = || prop::sample::select(TITLES.to_vec());
    prop_oneof![
        4 => (title(), title()).prop_map(|(a, b)| format!("<p>We saw the {a} over there. Then {b} came. The {a} again.</p>")),
        2 => title().prop_map(|a| format!("<p>Every night the {a} and the <em>{a}</em> meet the star.</p>")),
        1 => title().prop_map(|a| format!("<h2>{a}</h2>")),
        1 => title().prop_map(|a| format!("<p>Press <code>run {a} now</code> and <a href=\"/9\">{a}</a> it.</p>")),
        1 => title().prop_map(|a| format!("<nav><a href=\"/8\">{a}</a> {a}</nav>")),
        1 => title().prop_map(|a| format!("<pre>{a}</pre><button>{a}</button><p>Nothing of it.</p>")),
        1 => (title(), 0..TITLES.len()).prop_map(|(a, to)| format!("<ul><li><a href=\"/{}\">here</a> and {a}</li></ul>", to + 1)),
    ]
}

pub fn pages() -> impl Strategy<Value = Vec<String>> {
    prop::collection::vec(prop::collection::vec(piece(), 1..7).prop_map(|pieces| pieces.concat()), TITLES.len())
}

pub fn page_id(number: usize) -> PageId {
    PageId(u32::try_from(number).unwrap())
}

pub fn facts(number: usize) -> PageFacts {
    page(page_id(number).0, TITLES[number - 1])
}

#[derive(Default)]
pub struct World {
    pub documents: HashMap<PageId, Document>,
}

impl World {
    pub fn put(&mut self, site: &mut Site, book: &mut PhraseBook, number: usize, html: &str) -> PageId {
        let facts = facts(number);
        let document = Document::from_html(html);
        let links: Vec<_> = document
            .links()
            .iter()
            .map(|link| OutLink { to: follow(&link.href).unwrap(), region: link.region, marks: LinkMarks::default() })
            .collect();
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&document), follow);
        site.put_page(facts.clone(), &links);
        self.documents.insert(facts.id, document);
        facts.id
    }
}

pub fn world(pages: &[String]) -> (Site, PhraseBook, World) {
    let mut site = Site::new(address(1));
    let (mut book, mut world) = (PhraseBook::default(), World::default());
    for (number, html) in (1..).zip(pages) {
        world.put(&mut site, &mut book, number, html);
    }
    site.settle();
    book.settle();
    (site, book, world)
}

pub const ALL: Limits = Limits { most: 50, most_pages: 1000, least_fit: 0.0 };

/// Pairs of pages between which no link is wanted.
pub struct Passed(pub Vec<(PageId, PageId)>);

impl Unwanted for Passed {
    fn pair(&self, source: PageId, target: PageId) -> bool {
        self.0.contains(&(source, target))
    }

    fn words(&self, _: PageId, _: PageId, _: TextSpan) -> bool {
        false
    }

    fn planned(&self, _: PageId) -> Vec<TextSpan> {
        Vec::new()
    }
}
