//! A whole site at once, from its documents: for the command line, for training and for judging.

use std::collections::HashSet;

use rayon::iter::{
    IndexedParallelIterator, IntoParallelIterator, IntoParallelRefIterator, IntoParallelRefMutIterator,
    ParallelIterator,
};

use crate::document::{Document, Region};
use crate::language::{Language, Stems, recognise};
use crate::phrases::{PhraseBook, ReadProse};
use crate::site::{Address, BlockKey, Destination, OutLink, PageFacts, PageId, PageKind, Repetition, Site, Standing};

/// Pages whose prose is read at a time.
const AT_ONCE: usize = 128;

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
    pub fn of(entry: Address, pages: Vec<CorpusPage>) -> Self {
        Self::keeping(entry, pages, |_| ()).0
    }

    /// The same, with what is wanted of each document beyond that, in the order of the pages; the rest of it is let go.
    pub fn keeping<T>(entry: Address, mut pages: Vec<CorpusPage>, keep: impl Fn(Document) -> T + Sync) -> (Self, Vec<T>)
    where
        T: Send,
    {
        let mut repetition = Repetition::default();
        let keys: Vec<_> = pages.par_iter().map(|page| BlockKey::all(&page.document)).collect();
        keys.into_iter().for_each(|keys| repetition.add(&keys));
        let furniture = repetition.furniture();
        let known: HashSet<Address> = pages.iter().map(|page| page.address.clone()).collect();
        let marked = pages.par_iter_mut().zip((1..u32::MAX).into_par_iter()).map(|(page, number)| {
            page.document.mark_furniture(&furniture);
            facts(PageId(number), page)
        });
        let facts: Vec<PageFacts> = marked.collect();
        let mut corpus = Self { site: Site::new(entry), book: PhraseBook::default() };
        facts.iter().for_each(|facts| corpus.book.put_page(facts));
        let mut kept = Vec::with_capacity(pages.len());
        let mut pages = facts.into_iter().zip(pages.into_iter().map(|page| page.document));
        let stems = Stems::default();
        let mut read = read_prose(&stems, pages.by_ref().take(AT_ONCE).collect());
        // The words of some pages are numbered while those of the next are read.
        while !read.is_empty() {
            let next = pages.by_ref().take(AT_ONCE).collect();
            let put = || {
                read.into_iter().for_each(|(facts, document, prose)| {
                    corpus.put(&known, facts, &document, prose);
                    kept.push(keep(document));
                });
            };
            ((), read) = rayon::join(put, || read_prose(&stems, next));
        }
        corpus.book.settle();
        corpus.site.settle();
        (corpus, kept)
    }

    fn put(&mut self, known: &HashSet<Address>, facts: PageFacts, document: &Document, prose: ReadProse) {
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
        self.book.put_read(facts.id, Some((document, prose)), follow);
        self.site.put_page(facts, &links);
    }
}

/// The prose of some pages, side by side.
fn read_prose(stems: &Stems, pages: Vec<(PageFacts, Document)>) -> Vec<(PageFacts, Document, ReadProse)> {
    let read = pages.into_par_iter().map(|(facts, document)| {
        let prose = ReadProse::with(stems, &document, facts.language);
        (facts, document, prose)
    });
    read.collect()
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
