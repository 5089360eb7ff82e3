//! Finding openings, in both directions.

use rustc_hash::FxHashMap;

use super::candidate::{Candidate, Weighed};
use super::choice::choose;
use super::index::OpeningIndex;
use super::judge::{Judge, Need};
use super::opening::Opening;
use super::policy::{Limits, Manners, Unwanted};
use crate::document::TextSpan;
use crate::ids::PageId;

impl Judge<'_> {
    /// Openings on other pages that would lead to `target`, the fittest first, one for each page.
    ///
    /// Pages whose running text already leads there are left out. What `index` knows is not looked for again; without it
    /// the cost is O(words of the pages that mention the target), with it O(candidates of those pages).
    pub fn inbound(
        self,
        index: Option<&OpeningIndex>,
        target: PageId,
        unwanted: &impl Unwanted,
        limits: Limits,
    ) -> Vec<Opening> {
        let index = index.filter(|index| index.is_complete());
        let sources = match index {
            Some(index) => index.sources_of(target).to_vec(),
            None => self.book.pages_that_may_mention(target, limits.most_pages),
        };
        let need = self.need(target);
        let best = |source: PageId| {
            let found;
            let places = match index.and_then(|index| index.row(source)) {
                Some(row) => row,
                None if unwanted.pair(source, target) || !self.is_open(source, target) => return None,
                None => {
                    found = self.places(source, target);
                    &found
                }
            };
            let (candidate, weighed) = self.best_place(places, source, (target, &need), unwanted, limits)?;
            Some((source, candidate, weighed))
        };
        let mut found: Vec<_> = sources.into_iter().filter_map(best).collect();
        found.sort_by(|a, b| b.2.log_odds.total_cmp(&a.2.log_odds).then(a.0.cmp(&b.0)));
        found.truncate(limits.most);
        found.into_iter().map(|(source, candidate, weighed)| self.opening(source, &candidate, &weighed)).collect()
    }

    /// The best of some places of a page for a link to `target`, which lacks links so much, when one is wanted and fit
    /// enough.
    pub(super) fn best_place(
        self,
        places: &[Candidate],
        source: PageId,
        (target, need): (PageId, &Need),
        unwanted: &impl Unwanted,
        limits: Limits,
    ) -> Option<(Candidate, Weighed)> {
        if unwanted.pair(source, target) || !self.is_open(source, target) {
            return None;
        }
        let planned = unwanted.planned(source);
        let of_target = places.iter().filter(|candidate| candidate.target == target);
        let weighed = of_target.map(|candidate| (*candidate, self.weigh_with(source, candidate, need)));
        let fit = weighed.filter(|(candidate, weighed)| {
            let words = self.words_of(source, candidate);
            self.is_fit(weighed, limits)
                && !unwanted.words(source, target, words)
                && !planned.iter().any(|link| link.overlaps(words))
        });
        fit.max_by(|a, b| a.1.log_odds.total_cmp(&b.1.log_odds).then(b.0.first.cmp(&a.0.first)))
    }

    /// Openings in the text of `source`, the fittest first: the best set for the page. Cost as [`Judge::inbound`].
    pub fn outbound(
        self,
        index: Option<&OpeningIndex>,
        source: PageId,
        unwanted: &impl Unwanted,
        manners: Manners<'_>,
        limits: Limits,
    ) -> Vec<Opening> {
        let chosen = self.chosen(index, source, unwanted, manners, limits);
        chosen.iter().map(|(candidate, weighed)| self.opening(source, candidate, weighed)).collect()
    }

    /// The same as candidates.
    pub fn chosen(
        self,
        index: Option<&OpeningIndex>,
        source: PageId,
        unwanted: &impl Unwanted,
        manners: Manners<'_>,
        limits: Limits,
    ) -> Vec<(Candidate, Weighed)> {
        let mut needs = FxHashMap::default();
        let need = |target| *needs.entry(target).or_insert_with(|| self.need(target));
        match index.and_then(|index| index.row(source)) {
            Some(row) => self.chosen_of(row, need, source, unwanted, manners, limits),
            None => {
                let found = self.candidates(source, limits.most_candidates());
                self.chosen_of(&found, need, source, unwanted, manners, limits)
            }
        }
    }

    /// The same of some candidates of the page; `need` tells how much their targets lack links. O(candidates²).
    pub(super) fn chosen_of(
        self,
        row: &[Candidate],
        need: impl FnMut(PageId) -> Need,
        source: PageId,
        unwanted: &impl Unwanted,
        manners: Manners<'_>,
        limits: Limits,
    ) -> Vec<(Candidate, Weighed)> {
        let wanted = self.wanted_of(row, need, source, unwanted, limits);
        self.choose(source, wanted, &unwanted.planned(source), manners, limits.most)
    }

    /// Those of some candidates of the page that are wanted and fit enough.
    pub(super) fn wanted_of(
        self,
        row: &[Candidate],
        mut need: impl FnMut(PageId) -> Need,
        source: PageId,
        unwanted: &impl Unwanted,
        limits: Limits,
    ) -> Vec<(Candidate, Weighed)> {
        let wanted = row.iter().filter_map(|candidate| {
            let target = candidate.target;
            if unwanted.pair(source, target) || !self.is_open(source, target) {
                return None;
            }
            let weighed = self.weigh_with(source, candidate, &need(target));
            let is_wanted =
                self.is_fit(&weighed, limits) && !unwanted.words(source, target, self.words_of(source, candidate));
            is_wanted.then_some((*candidate, weighed))
        });
        wanted.collect()
    }

    /// The opening on just these words, however weak.
    pub fn opening_on(self, source: PageId, target: PageId, words: TextSpan) -> Option<Opening> {
        let places = self.places(source, target);
        let at = places.iter().find(|candidate| self.words_of(source, candidate) == words)?;
        Some(self.opening(source, at, &self.weigh(source, at)))
    }

    /// All places on a page at which another is named, in text order, however weak.
    pub fn openings_to(self, source: PageId, target: PageId) -> Vec<Opening> {
        let mut places = self.places(source, target);
        places.sort_by_key(|candidate| (candidate.first, candidate.len));
        places.iter().map(|candidate| self.opening(source, candidate, &self.weigh(source, candidate))).collect()
    }

    /// The best set of openings for a page out of some candidates with what they are worth, in any order; `planned` are links
    /// in the tray on the page's words. See [`choose`].
    pub fn choose(
        self,
        source: PageId,
        found: Vec<(Candidate, Weighed)>,
        planned: &[TextSpan],
        manners: Manners<'_>,
        most: usize,
    ) -> Vec<(Candidate, Weighed)> {
        self.book.prose(source).map_or_else(Vec::new, |prose| choose(prose, found, planned, manners, most))
    }
}
