//! Finding openings, in both directions.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::candidate::{Candidate, Need, Weighed};
use super::choice::Manners;
use super::ensemble::Ensemble;
use super::features::judge;
use super::fit::{Fit, Part};
use super::index::OpeningIndex;
use super::reasons::{Reason, reasons};
use super::taste::Taste;
use crate::document::TextSpan;
use crate::phrases::{PhraseBook, Place};
use crate::site::{PageId, Site};

/// A place in a page's text where a link to another page would fit.
#[derive(Debug, Clone)]
pub struct Opening {
    pub source: PageId,
    pub target: PageId,
    /// In the text layer of the source page's document.
    pub words: TextSpan,
    /// The sentence around the words, in the same text.
    pub sentence: TextSpan,
    /// The place on the target that the words name, when it is not the page as a whole.
    pub place: Option<Arc<Place>>,
    pub fit: Fit,
}

#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Openings to return, the best first.
    pub most: usize,
    /// Pages to read for each name of a target.
    pub most_pages: usize,
    /// Openings whose fit would be smaller without regard to what the target needs are not shown: no find is forced.
    pub least_fit: f64,
}

impl Limits {
    /// Places to look for on a page, from which the openings are chosen; see [`Judge::candidates`].
    pub(super) fn most_candidates(self) -> usize {
        OpeningIndex::MOST.max(self.most * 6)
    }
}

impl Default for Limits {
    fn default() -> Self {
        Self { most: 50, most_pages: 1000, least_fit: 7.0 }
    }
}

/// What judges openings, and on what.
#[derive(Debug, Clone, Copy)]
pub struct Judge<'j> {
    pub site: &'j Site,
    pub book: &'j PhraseBook,
    pub ensemble: &'j Ensemble,
    pub taste: Taste,
}

/// What is not wanted, whatever its fit.
pub trait Unwanted {
    /// No link is wanted from one page to the other.
    fn pair(&self, source: PageId, target: PageId) -> bool;

    /// These words of a page are not to carry a link to the other.
    fn words(&self, source: PageId, target: PageId, words: TextSpan) -> bool;

    /// Links in the tray on words of a page.
    fn planned(&self, source: PageId) -> Vec<TextSpan>;
}

/// Nothing is unwanted.
#[derive(Debug, Clone, Copy)]
pub struct AllWanted;

impl Unwanted for AllWanted {
    fn pair(&self, _: PageId, _: PageId) -> bool {
        false
    }

    fn words(&self, _: PageId, _: PageId, _: TextSpan) -> bool {
        false
    }

    fn planned(&self, _: PageId) -> Vec<TextSpan> {
        Vec::new()
    }
}

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

    /// Why the parts of an opening are as strong as they are, in the order of [`Part::ALL`]. O(words of both pages).
    pub fn reasons(self, source: PageId, target: PageId, words: TextSpan) -> Option<[Vec<Reason>; 5]> {
        let judged = judge(self.site, self.book, source, |page| page == target);
        let is_it = |first: usize, end: usize| self.span_of(source, first, end) == words;
        let judged = judged.iter().find(|judged| is_it(judged.mention.first, judged.mention.end()))?;
        Some(Part::ALL.map(|part| reasons(self.site, self.book, judged, part)))
    }

    /// Whether neither running text nor the tray leads from one page to the other.
    fn is_open(self, source: PageId, target: PageId) -> bool {
        !self.book.anchors().is_linked_in_prose(source, target) && !self.site.is_planned(source, target)
    }

    fn is_fit(self, weighed: &Weighed, limits: Limits) -> bool {
        let least = (limits.least_fit / (100.0 - limits.least_fit).max(1e-9)).max(1e-9).ln() as f32;
        weighed.without_need >= least
    }

    pub fn words_of(self, source: PageId, candidate: &Candidate) -> TextSpan {
        self.span_of(source, candidate.first(), candidate.end())
    }

    fn span_of(self, source: PageId, first: usize, end: usize) -> TextSpan {
        self.book.prose(source).map_or(TextSpan::new(0, 0), |prose| prose.words(first, end))
    }

    pub(super) fn opening(self, source: PageId, candidate: &Candidate, weighed: &Weighed) -> Opening {
        let words = self.words_of(source, candidate);
        let fit = Fit::of(self.ensemble, weighed, self.taste);
        let mut names = self.book.names(candidate.target).iter().filter(|name| name.phrase == candidate.phrase);
        let place = names.next().and_then(|name| name.place.clone());
        let sentence = self.sentence_of(source, words);
        Opening { source, target: candidate.target, words, sentence, place, fit }
    }

    /// The sentence around words of a page; the words themselves where there is none.
    pub fn sentence_of(self, source: PageId, words: TextSpan) -> TextSpan {
        self.book.prose(source).map_or(words, |prose| prose.sentence_around(words))
    }
}
