//! What judges places, and what they are worth.

use rustc_hash::{FxHashMap, FxHashSet};

use super::answers::answers;
use super::candidate::{Candidate, Weighed};
use super::ensemble::Ensemble;
use super::features::{FEATURES, Features, judge, need};
use super::fit::Fit;
use super::opening::Opening;
use super::part::Part;
use super::policy::Limits;
use super::portrait::Portraits;
use super::reasons::{Reason, reasons};
use super::taste::Taste;
use crate::document::TextSpan;
use crate::ids::PageId;
use crate::phrases::PhraseBook;
use crate::site::{Figures, Site};

/// Places on one page that are kept for the same target, for when the better ones are passed or used.
const MOST_PLACES: usize = 3;

/// Further targets of which the best place is kept, however much better others of the page are: they may have few other
/// pages that could lead to them.
const MOST_FURTHER: usize = 240;

/// What is less likely for an author than this, in log-odds, no editor will see as a further one.
const LEAST_FURTHER: f32 = -5.5;

/// What judges openings, and on what.
#[derive(Debug, Clone, Copy)]
pub struct Judge<'j> {
    pub site: &'j Site,
    pub book: &'j PhraseBook,
    pub ensemble: &'j Ensemble,
    pub taste: Taste,
}

/// What a page's figures say of its lack of links.
#[derive(Debug, Clone, Copy)]
pub(super) struct Need {
    figures: Figures,
    adds: f32,
}

impl<'j> Judge<'j> {
    /// All places of a page for one target.
    pub fn places(self, source: PageId, target: PageId) -> Vec<Candidate> {
        self.places_for(source, |page| page == target)
    }

    /// All places of a page for some targets.
    pub(super) fn places_for(self, source: PageId, wanted: impl Fn(PageId) -> bool) -> Vec<Candidate> {
        self.ranked(&Portraits::new(self.site, self.book), source, usize::MAX, wanted)
    }

    /// The best places of a page for each of some targets, at most `most` of them, the best first, and then the best one for
    /// each target that has none among these.
    pub(super) fn ranked(
        self,
        portraits: &Portraits<'j>,
        source: PageId,
        most: usize,
        wanted: impl Fn(PageId) -> bool,
    ) -> Vec<Candidate> {
        let per_target = if most == usize::MAX { usize::MAX } else { MOST_PLACES };
        let mut all = answers(portraits, self.book, self.ensemble, source, wanted);
        all.sort_by(|a, b| b.rest().total_cmp(&a.rest()).then_with(|| a.place().cmp(&b.place())));
        let mut places: FxHashMap<PageId, usize> = FxHashMap::default();
        all.retain(|candidate| {
            let places = places.entry(candidate.target).or_default();
            *places += 1;
            *places <= per_target
        });
        let further = all.split_off(most.min(all.len()));
        let mut reached: FxHashSet<PageId> = all.iter().map(|candidate| candidate.target).collect();
        let is_likely = |candidate: &Candidate| self.ensemble.promise(candidate.rest()).0 >= LEAST_FURTHER;
        let further = further.into_iter().take_while(is_likely).filter(|candidate| reached.insert(candidate.target));
        all.extend(further.take(MOST_FURTHER));
        all
    }

    /// What a candidate on a page is worth now, for this site and with the links that its target has. O(trees × depth).
    pub fn weigh(self, source: PageId, candidate: &Candidate) -> Weighed {
        self.weigh_with(source, candidate, &self.need(candidate.target))
    }

    /// How much a page lacks links, which is the same for all that leads to it.
    pub(super) fn need(self, target: PageId) -> Need {
        let figures = self.site.figures(target).unwrap_or_default();
        let mut features: Features = [0.0; FEATURES];
        features[Part::Need.features()].copy_from_slice(&need::of(self.book, &figures, target));
        Need { figures, adds: self.ensemble.part(Part::Need, &features) }
    }

    pub(super) fn weigh_with(self, source: PageId, candidate: &Candidate, need: &Need) -> Weighed {
        let mut parts = *candidate.parts();
        parts[Part::Need as usize] = need.adds;
        let untaught = self.taste.untaught(parts, candidate.sureness(), self.site.depth(source), &need.figures);
        let adds = self.taste.taught(untaught);
        let sum = adds.iter().sum::<f32>();
        let kept = |sum: f32| self.ensemble.promise(sum).0 + self.taste.keeps;
        let without_need = kept(sum - adds[Part::Need as usize]);
        Weighed { untaught, adds, log_odds: kept(sum), without_need }
    }

    /// Why the parts of an opening are as strong as they are, in the order of [`Part::ALL`]. O(words of both pages).
    pub fn reasons(self, source: PageId, target: PageId, words: TextSpan) -> Option<[Vec<Reason>; 5]> {
        let judged = judge(self.site, self.book, source, |page| page == target);
        let is_it = |first: usize, end: usize| self.span_of(source, first, end) == words;
        let judged = judged.iter().find(|judged| is_it(judged.mention.first, judged.mention.end()))?;
        Some(Part::ALL.map(|part| reasons(self.site, self.book, judged, part)))
    }

    /// Whether neither running text nor the tray leads from one page to the other.
    pub(super) fn is_open(self, source: PageId, target: PageId) -> bool {
        !self.book.anchors().is_linked_in_prose(source, target) && !self.site.is_planned(source, target)
    }

    pub(super) fn is_fit(self, weighed: &Weighed, limits: Limits) -> bool {
        let least = (limits.least_fit / (100.0 - limits.least_fit).max(1e-9)).max(1e-9).ln() as f32;
        weighed.without_need >= least
    }

    /// Where the words of a candidate stand in the text of its page. O(1).
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
