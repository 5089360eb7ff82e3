//! A whole site at once, from its documents: for the command line, for training and for judging.

use rayon::iter::{IndexedParallelIterator, IntoParallelIterator, IntoParallelRefMutIterator, ParallelIterator};

use crate::document::{Document, Region};
use crate::language::{Language, recognise};
use crate::phrases::{PhraseBook, ReadProse};
use crate::site::{Address, BlockKey, Destination, OutLink, PageFacts, PageId, PageKind, Repetition, Site, Standing};

/// A page with its number; numbers are given in order, from 1.
pub struct CorpusPage {
    pub address: Address,
    pub document: Document,
}

/// Pages, links and phrases of a site, counted and settled.
pub struct Corpus {
    pub site: Site,
    pub book: PhraseBook,
}

impl Corpus {
    /// O(bytes). A page of the same folder as an address that ends in a slash is found under its index file. In the
    /// documents, what is repeated all over the site is marked as furniture.
    pub fn of(entry: Address, pages: &mut [CorpusPage]) -> Self {
        let mut repetition = Repetition::default();
        pages.iter().for_each(|page| repetition.add(&BlockKey::all(&page.document)));
        let furniture = repetition.furniture();
        let known: std::collections::HashSet<Address> = pages.iter().map(|page| page.address.clone()).collect();
        let read: Vec<(PageFacts, ReadProse)> = pages
            .par_iter_mut()
            .zip((1..u32::MAX).into_par_iter())
            .map(|(page, number)| {
                page.document.mark_furniture(&furniture);
                let facts = facts(PageId(number), page);
                let prose = ReadProse::of(&page.document, facts.language);
                (facts, prose)
            })
            .collect();
        let mut corpus = Self { site: Site::new(entry), book: PhraseBook::default() };
        read.iter().for_each(|(facts, _)| corpus.book.put_page(facts));
        for ((facts, prose), CorpusPage { document, .. }) in read.into_iter().zip(pages.iter()) {
            let base = document.head().base.as_ref().and_then(|base| address_behind(&facts.address, base));
            let base = base.unwrap_or_else(|| facts.address.clone());
            let follow = |href: &str| {
                let to = address_behind(&base, href)?;
                if to.as_str().ends_with('/') && !known.contains(&to) {
                    return Address::parse(&format!("{to}index.html")).ok().filter(|to| known.contains(to));
                }
                known.contains(&to).then_some(to)
            };
            let links: Vec<_> = document
                .links()
                .iter()
                .filter_map(|link| Some(OutLink { to: follow(&link.href)?, region: link.region }))
                .collect();
            corpus.book.put_read(facts.id, Some((document, prose)), follow);
            corpus.site.put_page(facts, &links);
        }
        corpus.book.settle();
        corpus.site.settle();
        corpus
    }
}

fn address_behind(page: &Address, href: &str) -> Option<Address> {
    match page.follow(href) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    }
}

fn facts(id: PageId, page: &CorpusPage) -> PageFacts {
    let document = &page.document;
    let heading = document.main_heading();
    let declared = document.head().language.as_deref().map(Language::from_tag);
    let language = declared.or_else(|| recognise(document.text().as_str())).unwrap_or(Language::Other);
    let title = document.head().title.clone().or_else(|| heading.clone());
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    let letters: usize = content.map(|block| block.text.len()).sum();
    PageFacts {
        id,
        address: page.address.clone(),
        kind: PageKind::Page,
        title: title.unwrap_or_else(|| page.address.from_root()),
        heading,
        category: None,
        words: u32::try_from(letters / 6).unwrap_or(u32::MAX),
        language,
        editable: true,
        standing: Standing::of(document.head(), &page.address),
    }
}
