//! A whole site at once, from its documents: for the command line, for training and for judging.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::convert::Infallible;

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};

use super::learning::{BarePage, HiddenLink, Learner};
use super::{Ensemble, Habits};
use crate::document::{Document, Link, LinkMarks, Region};
use crate::in_order::in_order;
use crate::language::{Language, Stems};
use crate::phrases::{BookText, PhraseBook, ReadProse};
use crate::site::{
    Address, BlockKey, Destination, OutLink, PageFacts, PageId, PageKind, Repetition, Site, Standing, language_of,
};

/// Pages that are glanced at side by side: what is known of them then is little.
const GLANCED_AT_ONCE: usize = 256;

/// Pages whose prose is read at a time: their documents take many times the room of what is kept of them.
const AT_ONCE: usize = 8;

/// A page with its number; numbers are given in order, from 1.
pub struct CorpusPage {
    pub address: Address,
    pub document: Document,
}

/// What is found out of all pages before their prose is read.
#[derive(Default)]
struct First {
    /// With their languages, as far as these are clear.
    pages: HashMap<Address, Option<Language>>,
    repetition: Repetition,
}

/// What is found out of one page.
struct Glance {
    language: Option<Language>,
    blocks: HashSet<BlockKey>,
}

impl Glance {
    fn at(page: &CorpusPage) -> Self {
        Self { language: language_of(&page.document), blocks: BlockKey::all(&page.document) }
    }
}

impl First {
    fn add(&mut self, address: &Address, glance: &Glance) {
        self.pages.insert(address.clone(), glance.language);
        self.repetition.add(address, &glance.blocks);
    }

    /// The language of most pages.
    fn most_spoken(&self) -> Language {
        let mut counts: BTreeMap<Language, usize> = BTreeMap::new();
        self.pages.values().flatten().for_each(|language| *counts.entry(*language).or_default() += 1);
        counts.into_iter().max_by_key(|(_, count)| *count).map_or(Language::Other, |(language, _)| language)
    }
}

/// Pages, links and phrases of a site, counted and settled.
pub struct Corpus {
    pub site: Site,
    pub book: PhraseBook,
    /// What is repeated all over the site.
    boilerplate: HashSet<BlockKey>,
}

/// Pages of which links are hidden.
#[derive(Default)]
struct Hidden {
    /// What is hidden on each.
    links: Vec<(PageId, Vec<HiddenLink>)>,
    /// Their texts as they were.
    texts: Vec<(PageId, Option<BookText>)>,
}

impl Corpus {
    /// O(bytes). A page of the same folder as an address that ends in a slash is found under its index file. In the
    /// documents, what is repeated all over the site is marked as boilerplate.
    pub fn of(entry: Address, pages: Vec<CorpusPage>) -> Self {
        let mut first = First::default();
        let glances: Vec<_> = pages.par_iter().map(Glance::at).collect();
        glances.into_iter().zip(&pages).for_each(|(glance, page)| first.add(&page.address, &glance));
        let read = |page| Ok::<_, Infallible>(Some((page, ())));
        let Ok((corpus, _)) = Self::build(entry, first, pages.into_iter(), read, |_, ()| ());
        corpus
    }

    /// The same of pages that are read twice by `read`, so that not all documents are in memory at once; `None` is no
    /// page. Gives also what is wanted of each page beyond the corpus, in the order of the pages: `keep` makes it of the
    /// document and of what else `read` knew.
    ///
    /// # Errors
    /// The first that `read` gives.
    pub fn read<P, X, T, E>(
        entry: Address,
        places: &[P],
        read: impl Fn(&P) -> Result<Option<(CorpusPage, X)>, E> + Sync,
        keep: impl Fn(Document, X) -> T + Sync,
    ) -> Result<(Self, Vec<T>), E>
    where
        P: Sync,
        X: Send,
        T: Send,
        E: Send,
    {
        let mut first = First::default();
        for some in places.chunks(GLANCED_AT_ONCE) {
            let pages =
                some.par_iter().map(|place| Ok(read(place)?.map(|(page, _)| (Glance::at(&page), page.address))));
            let pages: Vec<_> = pages.collect::<Result<_, E>>()?;
            pages.into_iter().flatten().for_each(|(glance, address)| first.add(&address, &glance));
        }
        Self::build(entry, first, places.iter(), read, keep)
    }

    fn build<P, X, T, E>(
        entry: Address,
        first: First,
        places: impl Iterator<Item = P>,
        read: impl Fn(P) -> Result<Option<(CorpusPage, X)>, E> + Sync,
        keep: impl Fn(Document, X) -> T + Sync,
    ) -> Result<(Self, Vec<T>), E>
    where
        P: Send,
        X: Send,
        T: Send,
        E: Send,
    {
        let most_spoken = first.most_spoken();
        let First { pages, repetition } = first;
        let boilerplate = repetition.boilerplate();
        // It knows every block of the site.
        drop(repetition);
        let language_of = |address: &Address| pages.get(address).copied().flatten().unwrap_or(most_spoken);
        let mut corpus = Self { site: Site::new(entry), book: PhraseBook::default(), boilerplate: HashSet::new() };
        corpus.book.speaks(most_spoken);
        let stems = corpus.book.stems();
        let read = |place: P| {
            let Some((mut page, known)) = read(place)? else { return Ok(None) };
            page.document.mark_boilerplate(&boilerplate);
            let facts = facts(&page, language_of(&page.address));
            let prose = ReadProse::with(&stems, &page.document, facts.language);
            Ok(Some((facts, page.document, known, prose)))
        };
        let mut kept = Vec::new();
        // The words of some pages are numbered while those of the next are read.
        in_order(places, AT_ONCE, read, |read| {
            if let Some((mut facts, document, known, prose)) = read? {
                facts.id = PageId(u32::try_from(kept.len()).unwrap_or(u32::MAX - 1) + 1);
                corpus.put(&pages, facts, &document, prose);
                kept.push(keep(document, known));
            }
            Ok(())
        })?;
        corpus.boilerplate = boilerplate;
        corpus.book.settle();
        corpus.site.settle();
        Ok((corpus, kept))
    }

    /// Marks in a page that was read again what is repeated all over the site. O(n).
    pub fn mark_boilerplate(&self, document: &mut Document) {
        document.mark_boilerplate(&self.boilerplate);
    }

    /// What the links of this site tell of what its authors link; `None` when they are too few.
    /// `document` reads a page again. The corpus is the same before and after. O(what reading and judging the pages
    /// costs), of which there are a few hundred at most.
    ///
    /// # Errors
    /// The first that `document` gives; the corpus is not to be used then.
    pub fn habits<E: Send>(
        &mut self,
        ensemble: &Ensemble,
        document: impl Fn(&Address) -> Result<Option<Document>, E> + Sync,
    ) -> Result<Option<Habits>, E> {
        let mut learner = Learner::of(&self.book);
        while let Some(pages) = learner.next_pages() {
            let hidden = self.hide_links(&pages, &document)?;
            learner.look_at(&self.site, &self.book, &hidden.links);
            for (page, text) in hidden.texts {
                self.book.exchange(page, text);
            }
            self.book.settle();
        }
        self.book.shrink_to_fit();
        Ok(learner.learnt(ensemble))
    }

    /// Puts in the texts of some pages without the links in prose that tell.
    fn hide_links<E: Send>(
        &mut self,
        pages: &[PageId],
        document: &(impl Fn(&Address) -> Result<Option<Document>, E> + Sync),
    ) -> Result<Hidden, E> {
        let mut all = Hidden::default();
        let stems = Stems::default();
        for some in pages.chunks(AT_ONCE) {
            let Self { site, book, boilerplate } = &*self;
            let read = |page: &PageId| {
                let Some(facts) = book.facts(*page) else { return Ok(None) };
                let Some(mut document) = document(&facts.address)? else { return Ok(None) };
                document.mark_boilerplate(boilerplate);
                let base = base_of(&facts.address, &document);
                let target = |link: &Link| {
                    let to = follow(&base, &link.href, |to| site.page_at(to).is_some())?;
                    site.page_at(&to).filter(|to| to != page)
                };
                let bare = BarePage::of(&document, boilerplate, (&stems, facts.language), target);
                Ok(bare.map(|bare| (*page, base, bare)))
            };
            let ready: Vec<_> = some.par_iter().map(read).collect::<Result<_, E>>()?;
            for (page, base, BarePage { document, prose, hidden }) in ready.into_iter().flatten() {
                let site = &self.site;
                let leads = |href: &str| follow(&base, href, |to| site.page_at(to).is_some());
                all.texts.push((page, self.book.put_read(page, Some((&document, prose)), leads)));
                all.links.push((page, hidden));
            }
        }
        self.book.settle();
        Ok(all)
    }

    fn put(
        &mut self,
        known: &HashMap<Address, Option<Language>>,
        facts: PageFacts,
        document: &Document,
        prose: ReadProse,
    ) {
        let base = base_of(&facts.address, document);
        let follow = |href: &str| follow(&base, href, |to| known.contains_key(to));
        let links: Vec<_> = document
            .links()
            .iter()
            .filter_map(|link| {
                Some(OutLink { to: follow(&link.href)?, region: link.region, marks: LinkMarks::default() })
            })
            .collect();
        self.book.put_whole(&facts, Vec::new(), Some((document, prose)), follow);
        self.site.put_page(facts, &links);
    }
}

/// The address to which those on a page are relative.
fn base_of(page: &Address, document: &Document) -> Address {
    let base = document.head().base.as_ref().and_then(|base| address_behind(page, base));
    base.unwrap_or_else(|| page.clone())
}

/// The page of the site to which a link leads; that of a folder is its index file, where it has no page of its own.
fn follow(base: &Address, href: &str, is_page: impl Fn(&Address) -> bool) -> Option<Address> {
    let to = address_behind(base, href)?;
    if to.as_str().ends_with('/') && !is_page(&to) {
        return Address::parse(&format!("{to}index.html")).ok().filter(is_page);
    }
    is_page(&to).then_some(to)
}

fn address_behind(page: &Address, href: &str) -> Option<Address> {
    match page.follow(href) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    }
}

/// But for the number.
fn facts(page: &CorpusPage, language: Language) -> PageFacts {
    let document = &page.document;
    let heading = document.main_heading();
    let title = document.head().title.clone().or_else(|| heading.clone());
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    let letters: usize = content.map(|block| block.text.len()).sum();
    PageFacts {
        id: PageId(0),
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
