//! Pages that are about the same.

use rustc_hash::FxHashMap;

use super::judge::Judge;
use super::tf_idf::{Layout, Subject, TfIdf};
use crate::site::PageId;

/// Telling words of a page by which pages like it are looked for.
const MOST_TERMS: usize = 12;

/// Pages that are looked at for one of them; a word on more pages tells little.
const MOST_PAGES: usize = 400;

/// For each page that is asked for, so many are compared with all their words.
const COMPARED: usize = 5;

impl Judge<'_> {
    /// Pages that are about what a page is about, the likest first, with how like they are from 0 to 1. O(postings of its
    /// telling words), at most [`MOST_TERMS`] × [`MOST_PAGES`] pages.
    pub fn alike(self, page: PageId, most: usize) -> Vec<(PageId, f64)> {
        let Some(vector) = TfIdf::of(self.book, page) else { return Vec::new() };
        let mut seen: FxHashMap<PageId, usize> = FxHashMap::default();
        for term in vector.telling(MOST_TERMS) {
            let pages = self.book.pages_with_term(term);
            for other in pages.iter().filter(|other| **other != page).take(MOST_PAGES) {
                *seen.entry(*other).or_default() += 1;
            }
        }
        let mut often: Vec<_> = seen.into_iter().collect();
        often.sort_unstable_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(&b.0)));
        often.truncate(most * COMPARED);
        let mut layout = Layout::new(self.book);
        layout.lay(&vector);
        let like = |(other, _)| Some((other, f64::from(layout.similarity(&Subject::of(self.book, other)?))));
        let mut alike: Vec<_> = often.into_iter().filter_map(like).collect();
        alike.sort_unstable_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
        alike.truncate(most);
        alike
    }
}
