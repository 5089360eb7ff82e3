//! What is known of a page as a target, whatever page would lead to it.

use std::sync::{Arc, PoisonError, RwLock};

use rustc_hash::FxHashMap;

use super::features::need;
use super::tf_idf::Subject;
use crate::phrases::{NameSource, PhraseBook, TermId};
use crate::site::{PageId, Site};

/// A page as a target.
#[derive(Default)]
pub(super) struct Portrait<'b> {
    pub subject: Option<Subject<'b>>,
    /// Links in content that lead to it.
    pub to_page: u32,
    pub need: [f32; need::NAMES.len()],
    pub title_words: usize,
    /// The words of its title with how telling they are.
    pub title: Vec<(TermId, f32)>,
    /// Pages on which the most common of its own names stands.
    pub named_on: u32,
}

impl<'b> Portrait<'b> {
    /// O(terms of the page + its names).
    fn of(site: &Site, book: &'b PhraseBook, page: PageId) -> Self {
        let title = book.names(page).iter().find(|name| name.source == NameSource::Title);
        let title = title.map(|name| book.terms_of(name.phrase));
        let pages = book.prose_count() as f32;
        let weight = |term: &TermId| (1.0 + pages / book.document_frequency(*term).max(1) as f32).ln();
        let own_names = book.names(page).iter().filter(|name| name.source.is_own());
        Self {
            subject: Subject::of(book, page),
            to_page: book.anchors().to_page(page),
            need: need::of(book, &site.figures(page).unwrap_or_default(), page),
            title_words: title.map_or(8, <[TermId]>::len),
            title: title.unwrap_or_default().iter().map(|term| (*term, weight(term))).collect(),
            named_on: own_names.map(|name| book.standing(name.phrase).pages).max().unwrap_or_default(),
        }
    }
}

/// What was found out of pages while others were judged, so that it is not found out for each of them. It holds as long
/// as site and book do not change. Memory: O(pages that were met).
pub(super) struct Portraits<'b> {
    site: &'b Site,
    book: &'b PhraseBook,
    portraits: Memo<Arc<Portrait<'b>>>,
    /// Pages to which the content of a page leads, ascending.
    out: Memo<Arc<[PageId]>>,
}

impl<'b> Portraits<'b> {
    /// Portraits of the pages of a site, each drawn when it is first asked for.
    pub fn new(site: &'b Site, book: &'b PhraseBook) -> Self {
        Self { site, book, portraits: Memo::default(), out: Memo::default() }
    }

    /// The portrait of a page. The first time O(text of the page), later O(1).
    pub fn of(&self, page: PageId) -> Arc<Portrait<'b>> {
        self.portraits.of(page, || Arc::new(Portrait::of(self.site, self.book, page)))
    }

    /// The pages to which the content of a page leads. The first time O(its links), later O(1).
    pub fn out_of(&self, page: PageId) -> Arc<[PageId]> {
        self.out.of(page, || self.book.anchors().out_of(page).into())
    }
}

/// What was found out of pages. It may be asked from several threads; two that ask at the same time may both find it out.
pub(super) struct Memo<T>(RwLock<FxHashMap<PageId, T>>);

impl<T> Default for Memo<T> {
    fn default() -> Self {
        Self(RwLock::default())
    }
}

impl<T: Clone> Memo<T> {
    /// What is known, or is found out now. O(1) beside finding out.
    pub fn of(&self, page: PageId, find: impl FnOnce() -> T) -> T {
        // What was put in is whole, whatever became of whoever put it there.
        if let Some(found) = self.0.read().unwrap_or_else(PoisonError::into_inner).get(&page) {
            return found.clone();
        }
        let found = find();
        self.0.write().unwrap_or_else(PoisonError::into_inner).entry(page).or_insert(found).clone()
    }
}
