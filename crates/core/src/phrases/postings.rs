//! Which pages hold a term.

use smallvec::SmallVec;

use super::lexicon::TermId;
use crate::site::PageId;
use crate::weight::list;

/// Pages by term, ascending. Most terms stand on few pages, which take no room of their own.
#[derive(Debug, Default)]
pub struct Postings {
    /// By the number of the term.
    pages: Vec<SmallVec<[PageId; 4]>>,
}

impl Postings {
    /// O(pages with the term).
    pub fn add(&mut self, term: TermId, page: PageId) {
        let number = term.0 as usize;
        if number >= self.pages.len() {
            self.pages.resize_with(number + 1, SmallVec::new);
        }
        let pages = &mut self.pages[number];
        if let Err(at) = pages.binary_search(&page) {
            pages.insert(at, page);
        }
    }

    /// O(pages with the term).
    pub fn remove(&mut self, term: TermId, page: PageId) {
        if let Some(pages) = self.pages.get_mut(term.0 as usize)
            && let Ok(at) = pages.binary_search(&page)
        {
            pages.remove(at);
        }
    }

    /// Gives back the room that was kept for more pages. O(terms).
    pub fn shrink_to_fit(&mut self) {
        self.pages.iter_mut().for_each(SmallVec::shrink_to_fit);
        self.pages.shrink_to_fit();
    }

    /// Bytes on the heap. O(terms).
    pub fn weight(&self) -> usize {
        let own = self.pages.iter().filter(|pages| pages.spilled()).map(|pages| list::<PageId>(pages.capacity()));
        list::<SmallVec<[PageId; 4]>>(self.pages.capacity()) + own.sum::<usize>()
    }

    /// Ascending. O(1).
    pub fn of(&self, term: TermId) -> &[PageId] {
        self.pages.get(term.0 as usize).map_or(&[], SmallVec::as_slice)
    }
}

#[cfg(test)]
mod tests {
    use std::collections::{BTreeMap, BTreeSet};

    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn pages_are_those_that_were_added_and_not_removed(
            steps in prop::collection::vec((0..6u32, 0..9u32, prop::bool::weighted(0.7)), 0..80),
        ) {
            let mut postings = Postings::default();
            let mut expected: BTreeMap<TermId, BTreeSet<PageId>> = BTreeMap::new();
            for (term, page, is_added) in steps {
                let (term, page) = (TermId(term), PageId(page));
                if is_added {
                    postings.add(term, page);
                    expected.entry(term).or_default().insert(page);
                } else {
                    postings.remove(term, page);
                    expected.entry(term).or_default().remove(&page);
                }
            }
            for term in (0..8).map(TermId) {
                let pages: Vec<PageId> = expected.get(&term).into_iter().flatten().copied().collect();
                prop_assert_eq!(postings.of(term), pages);
            }
        }
    }
}
