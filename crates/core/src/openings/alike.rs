//! Pages that are about the same.

use rustc_hash::FxHashMap;

use super::find::Judge;
use super::theme::{Layout, Subject, Theme};
use crate::phrases::PhraseBook;
use crate::site::PageId;

/// Telling words of a page by which pages like it are looked for.
const MOST_TERMS: usize = 12;

/// Pages that are looked at for one of them; a word on more pages tells little.
const MOST_PAGES: usize = 400;

/// For each page that is asked for, so many are compared with all their words.
const COMPARED: usize = 5;

/// Pages that are about what a page is about, the likest first, with how like they are from 0 to 1. Its theme is given,
/// also laid out. O(postings of its telling words), at most [`MOST_TERMS`] × [`MOST_PAGES`] pages.
pub(super) fn pages_alike(
    book: &PhraseBook,
    page: PageId,
    theme: &Theme,
    layout: &Layout<'_>,
    most: usize,
) -> Vec<(PageId, f32)> {
    let mut seen: FxHashMap<PageId, usize> = FxHashMap::default();
    for term in theme.telling(MOST_TERMS) {
        let pages = book.pages_with_term(term);
        for other in pages.iter().filter(|other| **other != page).take(MOST_PAGES) {
            *seen.entry(*other).or_default() += 1;
        }
    }
    let mut often: Vec<_> = seen.into_iter().collect();
    let order = |a: &(PageId, usize), b: &(PageId, usize)| b.1.cmp(&a.1).then(a.0.cmp(&b.0));
    if most * COMPARED < often.len() {
        often.select_nth_unstable_by(most * COMPARED, order);
        often.truncate(most * COMPARED);
    }
    let like = |(other, _): (PageId, usize)| Some((other, layout.likeness(&Subject::of(book, other)?)));
    let mut alike: Vec<_> = often.into_iter().filter_map(like).collect();
    alike.sort_unstable_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
    alike.truncate(most);
    alike
}

impl Judge<'_> {
    /// See [`pages_alike`].
    pub fn alike(self, page: PageId, most: usize) -> Vec<(PageId, f64)> {
        let Some(theme) = Theme::of(self.book, page) else { return Vec::new() };
        let mut layout = Layout::new(self.book);
        layout.lay(&theme);
        let alike = pages_alike(self.book, page, &theme, &layout, most);
        alike.into_iter().map(|(page, likeness)| (page, f64::from(likeness))).collect()
    }
}
