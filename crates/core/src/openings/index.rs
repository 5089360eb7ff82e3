//! The candidates of a whole site, kept so that both directions are answered at once.

use std::collections::BTreeSet;

use rustc_hash::FxHashMap;

use super::candidate::Candidate;
use super::policy::MOST_CANDIDATES;
use crate::site::PageId;
use crate::weight::{list, table};

/// Candidates by page, and which pages could lead to which. About 36 bytes a candidate.
#[derive(Debug, Default)]
pub struct OpeningIndex {
    rows: FxHashMap<PageId, KeptRow>,
    /// Pages with candidates for a target, ascending.
    sources: FxHashMap<PageId, Vec<PageId>>,
    /// Pages whose candidates are missing, or older than the texts.
    stale: BTreeSet<PageId>,
    /// Counts changes of texts. What was judged before the latest holds, but is to be judged again: what words are worth
    /// hangs on the whole site.
    age: u64,
    /// Rows that were judged since.
    fresh: usize,
}

#[derive(Debug)]
struct KeptRow {
    candidates: Box<[Candidate]>,
    age: u64,
}

impl OpeningIndex {
    /// Candidates kept for one page, at most, beside the best one for each further target.
    pub const MOST: usize = MOST_CANDIDATES;

    /// Takes note of what was found on a page. O(candidates × log pages).
    pub fn put(&mut self, page: PageId, row: Vec<Candidate>) {
        self.keep(page, row, self.age);
        self.fresh += 1;
    }

    /// Takes note of what was found on a page at an earlier time: it holds until the page is judged again.
    pub fn restore(&mut self, page: PageId, row: Vec<Candidate>) {
        self.age = self.age.max(1);
        self.keep(page, row, self.age - 1);
    }

    fn keep(&mut self, page: PageId, row: Vec<Candidate>, age: u64) {
        self.forget(page);
        self.stale.remove(&page);
        for candidate in &row {
            let sources = self.sources.entry(candidate.target).or_default();
            if let Err(at) = sources.binary_search(&page) {
                sources.insert(at, page);
            }
        }
        self.rows.insert(page, KeptRow { candidates: row.into(), age });
    }

    /// Says that the text of a page changed: what was found on it holds no more, and what was found elsewhere is to be
    /// judged again when there is time. O(candidates × log pages).
    pub fn changed(&mut self, page: PageId) {
        self.forget(page);
        self.stale.insert(page);
        self.aged();
    }

    /// Says that all that was found is to be judged again when there is time.
    pub fn aged(&mut self) {
        self.age += 1;
        self.fresh = 0;
    }

    /// Says that other pages may be named on these by now, or no more.
    pub fn mark(&mut self, pages: impl IntoIterator<Item = PageId>) {
        self.stale.extend(pages);
    }

    /// Says that a page is no longer there. What is found elsewhere hangs on it too.
    pub fn remove(&mut self, page: PageId) {
        self.changed(page);
        self.stale.remove(&page);
    }

    fn forget(&mut self, page: PageId) {
        let Some(row) = self.rows.remove(&page) else { return };
        self.fresh -= usize::from(row.age == self.age);
        for candidate in &row.candidates {
            if let Some(sources) = self.sources.get_mut(&candidate.target)
                && let Ok(at) = sources.binary_search(&page)
            {
                sources.remove(at);
            }
        }
    }

    /// Bytes on the heap. O(pages).
    pub fn weight(&self) -> usize {
        table(&self.rows)
            + self.rows.values().map(|row| list::<Candidate>(row.candidates.len())).sum::<usize>()
            + table(&self.sources)
            + self.sources.values().map(|pages| list::<PageId>(pages.capacity())).sum::<usize>()
    }

    /// `None` when they are not known yet, or no more.
    pub fn row(&self, page: PageId) -> Option<&[Candidate]> {
        self.rows.get(&page).filter(|_| !self.stale.contains(&page)).map(|row| row.candidates.as_ref())
    }

    /// What was found on a page when it was last looked at, whether it holds or not.
    pub fn row_kept(&self, page: PageId) -> &[Candidate] {
        self.rows.get(&page).map_or(&[], |row| row.candidates.as_ref())
    }

    /// Pages that could lead to `target`, ascending, as far as they are known.
    pub fn sources_of(&self, target: PageId) -> &[PageId] {
        self.sources.get(&target).map_or(&[], Vec::as_slice)
    }

    /// Pages to look at, the first of them: those that are not known first. O(pages), unless there are none.
    pub fn waiting(&self, most: usize) -> Vec<PageId> {
        if self.is_settled() {
            return Vec::new();
        }
        let is_aged = |(page, row): &(&PageId, &KeptRow)| row.age < self.age && !self.stale.contains(page);
        let aged = self.rows.iter().filter(is_aged).map(|(page, _)| page);
        self.stale.iter().chain(aged).copied().take(most).collect()
    }

    /// How many pages are known, and how many are to be looked at.
    pub fn progress(&self) -> (usize, usize) {
        (self.rows.keys().filter(|page| !self.stale.contains(page)).count(), self.stale.len())
    }

    /// Whether all pages are known, though some may be judged again.
    pub fn is_complete(&self) -> bool {
        self.stale.is_empty()
    }

    /// Whether nothing is to be looked at.
    pub fn is_settled(&self) -> bool {
        self.stale.is_empty() && self.fresh == self.rows.len()
    }
}
