//! The openings of a whole site at a glance: how many each page has in both directions, and the best of them. Kept right
//! by deltas.

use std::collections::BTreeSet;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use rustc_hash::FxHashMap;

use super::candidate::Candidate;
use super::fit::{LIKELY, percent};
use super::index::OpeningIndex;
use super::judge::{Judge, Need};
use super::policy::{Limits, Manners, Unwanted};
use super::portrait::Memo;
use crate::site::{Changes, PageId, Site};
use crate::weight::table;

/// What a page has to offer.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Tally {
    /// Likely openings on other pages that would lead here, and the best fit among them, [`LIKELY`] to 100.
    pub inbound: u32,
    pub best_in: Option<f64>,
    /// The chance that at least one of the best three would be kept, 0 to 1.
    pub hope_in: f64,
    /// Likely openings in its own text, as a set.
    pub outbound: u32,
    pub best_out: Option<f64>,
    /// Where the best of them leads.
    pub best_target: Option<PageId>,
}

/// Openings that lead to a page, or that stand on it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Direction {
    In,
    Out,
}

/// What of a page's figures its need for links hangs on.
type Lack = (u32, u32, Option<u32>);

/// Pages that are counted side by side before the next are taken.
const COUNTED_AT_ONCE: usize = 512;

/// Candidates of all pages and what follows from them.
#[derive(Debug, Default)]
pub struct Board {
    index: OpeningIndex,
    tallies: FxHashMap<PageId, Tally>,
    /// Pages to which, and on which, openings are to be counted anew.
    dirty_in: BTreeSet<PageId>,
    dirty_out: BTreeSet<PageId>,
    needs: FxHashMap<PageId, Lack>,
    /// Count changes of tallies, and of candidates.
    tallies_changed: u64,
    rows_changed: u64,
}

impl Board {
    /// The openings that are known.
    pub fn index(&self) -> &OpeningIndex {
        &self.index
    }

    /// `None` until it was counted.
    pub fn tally(&self, page: PageId) -> Option<&Tally> {
        self.tallies.get(&page)
    }

    /// How often the tally of a page became another one.
    pub const fn tallies_changed(&self) -> u64 {
        self.tallies_changed
    }

    /// How often candidates of a page were found, or found no more.
    pub const fn rows_changed(&self) -> u64 {
        self.rows_changed
    }

    /// Bytes on the heap. O(pages).
    pub fn weight(&self) -> usize {
        self.index.weight() + table(&self.tallies) + table(&self.needs)
    }

    /// Whether nothing waits to be looked at.
    pub fn is_settled(&self) -> bool {
        self.dirty_in.is_empty() && self.dirty_out.is_empty() && self.index.is_settled()
    }

    /// Pages that are known, and those that are still to be looked at.
    pub fn progress(&self) -> (usize, usize) {
        self.index.progress()
    }

    /// Pages whose texts are to be looked at, or looked at again: the first of them.
    pub fn waiting(&self, most: usize) -> Vec<PageId> {
        self.index.waiting(most)
    }

    /// Whether all that waits is known, and only to be judged again.
    pub fn is_complete(&self) -> bool {
        self.index.is_complete()
    }

    /// The text of a page changed; `mentioning` are pages that may name it, as it is called now.
    pub fn changed(&mut self, page: PageId, mentioning: impl IntoIterator<Item = PageId>) {
        self.touch_row(page);
        let sources = self.index.sources_of(page).to_vec();
        self.index.changed(page);
        self.index.mark(sources);
        self.index.mark(mentioning);
        self.dirty_in.insert(page);
    }

    /// Another judge: all that was found holds until it judged, too.
    pub fn judged_by_another(&mut self) {
        self.index.aged();
    }

    /// The page is no longer there.
    pub fn removed(&mut self, page: PageId) {
        self.touch_row(page);
        let sources = self.index.sources_of(page).to_vec();
        self.dirty_out.extend(&sources);
        self.index.mark(sources);
        self.index.remove(page);
        self.rows_changed += 1;
        self.tallies_changed += u64::from(self.tallies.remove(&page).is_some());
        self.needs.remove(&page);
    }

    /// Takes note of what was found on a page.
    pub fn put(&mut self, page: PageId, row: Vec<Candidate>) {
        self.touch_row(page);
        self.rows_changed += 1;
        self.index.put(page, row);
        self.touch_row(page);
    }

    /// Takes note of what was found on a page in an earlier run: it holds until the page is judged again.
    pub fn restore(&mut self, page: PageId, row: Vec<Candidate>) {
        self.touch_row(page);
        self.rows_changed += 1;
        self.index.restore(page, row);
        self.touch_row(page);
    }

    /// Something was decided about links of a page.
    pub fn decided(&mut self, source: PageId, target: Option<PageId>) {
        self.touch_row(source);
        self.dirty_in.extend(target);
    }

    /// Something was decided about all links to a page.
    pub fn decided_for_all(&mut self, target: PageId) {
        self.dirty_in.insert(target);
        self.dirty_out.extend(self.index.sources_of(target));
    }

    /// Everything is to be counted anew: rules changed, or what is known of the editor's taste.
    pub fn touch_all(&mut self, pages: impl Iterator<Item = PageId>) {
        for page in pages {
            self.dirty_in.insert(page);
            self.dirty_out.insert(page);
        }
    }

    /// Counts what stands on a page anew, and what leads to the pages to which it could lead.
    fn touch_row(&mut self, page: PageId) {
        self.dirty_out.insert(page);
        for candidate in self.index.row_kept(page) {
            self.dirty_in.insert(candidate.target);
        }
    }

    /// Takes note of pages whose need for links changed. O(changed pages).
    pub fn follow_needs(&mut self, site: &Site, changes: Changes) {
        let pages: Vec<PageId> = match changes {
            Changes::Everything => site.pages().map(|page| page.id).collect(),
            Changes::Pages(pages) => pages.into_iter().collect(),
        };
        for page in pages {
            let Some(figures) = site.figures(page) else { continue };
            let need = (figures.links_in, figures.content_links_in, figures.depth);
            let old = self.needs.insert(page, need);
            if old != Some(need) {
                self.dirty_in.insert(page);
                self.dirty_out.extend(self.index.sources_of(page));
            }
            // Links from a page gain less while it is out of reach.
            if old.is_none_or(|(.., depth)| depth.is_none() != figures.depth.is_none()) {
                self.touch_row(page);
            }
        }
    }

    /// Counts at most `most` times anew what leads to a page, or what stands on it. O(their candidates and those that lead
    /// to them).
    pub fn settle(
        &mut self,
        judge: Judge<'_>,
        unwanted: &(impl Unwanted + Sync),
        manners: Manners<'_>,
        limits: Limits,
        most: usize,
    ) {
        let counting = Counting { index: &self.index, judge, unwanted, manners, limits, needs: Memo::default() };
        let mut left = most;
        while let Some((some, way)) = next_dirty(&mut self.dirty_out, &mut self.dirty_in, left) {
            left -= some.len();
            let counted: Vec<_> = some
                .into_par_iter()
                .map(|page| {
                    let known = self.tallies.get(&page).copied().unwrap_or_default();
                    let is_there = judge.site.page(page).is_some();
                    (page, is_there.then(|| counting.count(page, way, known)))
                })
                .collect();
            for (page, tally) in counted {
                let before = match tally {
                    Some(tally) => self.tallies.insert(page, tally),
                    None => self.tallies.remove(&page),
                };
                self.tallies_changed += u64::from(before != tally);
            }
        }
    }
}

/// The next pages to count anew in one of both ways, at most `most`.
fn next_dirty(
    out: &mut BTreeSet<PageId>,
    into: &mut BTreeSet<PageId>,
    most: usize,
) -> Option<(Vec<PageId>, Direction)> {
    let (dirty, way) = if out.is_empty() { (into, Direction::In) } else { (out, Direction::Out) };
    let some: Vec<PageId> = std::iter::from_fn(|| dirty.pop_first()).take(most.min(COUNTED_AT_ONCE)).collect();
    (!some.is_empty()).then_some((some, way))
}

/// What pages are counted by.
struct Counting<'c, U> {
    index: &'c OpeningIndex,
    judge: Judge<'c>,
    unwanted: &'c U,
    manners: Manners<'c>,
    limits: Limits,
    /// What pages lack, which is the same for all that leads to them.
    needs: Memo<Need>,
}

impl<U: Unwanted> Counting<'_, U> {
    fn need(&self, page: PageId) -> Need {
        self.needs.of(page, || self.judge.need(page))
    }

    fn count(&self, page: PageId, way: Direction, known: Tally) -> Tally {
        match way {
            Direction::In => self.count_in(page, known),
            Direction::Out => self.count_out(page, known),
        }
    }

    fn count_out(&self, page: PageId, known: Tally) -> Tally {
        // What is not looked at yet counts nothing until it is.
        let out = self.index.row(page).map_or_else(Vec::new, |row| {
            let need = |target| self.need(target);
            self.judge.chosen_of(row, need, page, self.unwanted, self.manners, self.limits)
        });
        let fits = out.iter().map(|(candidate, weighed)| (candidate.target, percent(weighed.log_odds)));
        let likely: Vec<_> = fits.filter(|(_, fit)| *fit >= LIKELY).collect();
        Tally {
            outbound: u32::try_from(likely.len()).unwrap_or(u32::MAX),
            best_out: likely.first().map(|(_, fit)| *fit),
            best_target: likely.first().map(|(target, _)| *target),
            ..known
        }
    }

    fn count_in(&self, page: PageId, known: Tally) -> Tally {
        let need = self.need(page);
        let best = |source: &PageId| {
            let row = self.index.row(*source)?;
            self.judge.best_place(row, *source, (page, &need), self.unwanted, self.limits)
        };
        let found = self.index.sources_of(page).iter().filter_map(best);
        let mut fits: Vec<f64> = found.map(|(_, weighed)| percent(weighed.log_odds)).collect();
        fits.sort_by(|a, b| b.total_cmp(a));
        let hope_in = 1.0 - fits.iter().take(3).map(|fit| 1.0 - fit / 100.0).product::<f64>();
        fits.truncate(fits.partition_point(|fit| *fit >= LIKELY));
        Tally {
            inbound: u32::try_from(fits.len()).unwrap_or(u32::MAX),
            best_in: fits.first().copied(),
            hope_in,
            ..known
        }
    }
}
