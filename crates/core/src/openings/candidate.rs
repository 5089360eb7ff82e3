//! Places that could carry a link, judged once and small enough to be kept for a whole site.

use std::cmp::Ordering;

use rustc_hash::{FxHashMap, FxHashSet};

use super::choice::Manners;
use super::features::{Answer, FEATURES, Features, answers, need_features};
use super::find::{Judge, Limits, Unwanted};
use super::fit::Part;
use super::portrait::{Memo, Portraits};
use crate::phrases::PhraseId;
use crate::site::{Figures, PageId};

/// Places on one page that are kept for the same target, for when the better ones are passed or used.
const MOST_PLACES: usize = 3;

/// Further targets of which the best place is kept, however much better others of the page are: they may have few other
/// pages that could lead to them.
const MOST_FURTHER: usize = 240;

/// What is less likely for an author than this, in log-odds, no editor will see as a further one.
const LEAST_FURTHER: f32 = -5.5;

/// A place at which words name a page.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Candidate {
    pub target: PageId,
    pub phrase: PhraseId,
    /// The first word among the tokens of the page.
    pub first: u32,
    pub len: u16,
    /// What the trees of each part say; for the need, which changes with each link, see [`Judge::weigh`].
    parts: [f32; 5],
    /// How sure the words mean the page, see [`Judged::sureness`](super::Judged::sureness).
    sureness: f32,
}

/// What a candidate is worth now.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Weighed {
    /// What each part adds before this site's taste, and with it.
    pub untaught: [f32; 5],
    pub adds: [f32; 5],
    /// That it is kept.
    pub log_odds: f32,
    /// The same without what the target lacks: a find does not become better by it, nor goes from sight when it got a
    /// link.
    pub without_need: f32,
}

/// What is worth more stands first.
pub(super) fn better_first(a: &(Candidate, Weighed), b: &(Candidate, Weighed)) -> Ordering {
    b.1.log_odds.total_cmp(&a.1.log_odds).then_with(|| a.0.place().cmp(&b.0.place()))
}

/// What was found on one page for both directions, the best first.
#[derive(Debug, Clone, PartialEq)]
pub struct BothWays {
    /// The best set for the page.
    pub chosen: Vec<(Candidate, Weighed)>,
    /// What would lead to other pages.
    pub beside: Vec<(Candidate, Weighed)>,
}

/// What a page's figures say of its lack of links.
#[derive(Debug, Clone, Copy)]
pub(super) struct Need {
    figures: Figures,
    adds: f32,
}

impl Candidate {
    pub fn first(&self) -> usize {
        self.first as usize
    }

    pub fn end(&self) -> usize {
        self.first as usize + usize::from(self.len)
    }

    fn of(Answer { mention, parts, sureness }: Answer) -> Option<Self> {
        let (first, len) = (u32::try_from(mention.first).ok()?, u16::try_from(mention.len).ok()?);
        Some(Self { target: mention.target(), phrase: mention.phrase, first, len, parts, sureness })
    }

    pub(super) fn kept(
        target: PageId,
        phrase: PhraseId,
        (first, len): (u32, u16),
        (parts, sureness): ([f32; 5], f32),
    ) -> Self {
        Self { target, phrase, first, len, parts, sureness }
    }

    pub(super) fn parts(&self) -> &[f32; 5] {
        &self.parts
    }

    pub(super) fn sureness(&self) -> f32 {
        self.sureness
    }

    /// Whether both stand on the same words and lead to the same page.
    fn is_place_of(&self, other: &Self) -> bool {
        self.place() == other.place()
    }

    fn place(&self) -> (PageId, u32, u16) {
        (self.target, self.first, self.len)
    }

    /// Whether some candidates are the same places as others, in any order. O(n log n).
    pub fn are_places_of(some: &[Self], others: &[Self]) -> bool {
        let ordered = |row: &[Self]| {
            let mut row = row.to_vec();
            row.sort_by_key(Self::place);
            row
        };
        let (some, others) = (ordered(some), ordered(others));
        some.len() == others.len() && some.iter().zip(&others).all(|(one, other)| one.is_place_of(other))
    }

    /// What it is worth but for the need of its target.
    fn rest(&self) -> f32 {
        self.parts.iter().sum::<f32>() - self.parts[Part::Need as usize]
    }
}

/// A judge of many pages in one go, who remembers what was found out of their targets. It judges as [`Judge`] does, and
/// may be asked from several threads.
pub struct Sitting<'j> {
    judge: Judge<'j>,
    portraits: Portraits<'j>,
    needs: Memo<Need>,
}

impl Sitting<'_> {
    /// As [`Judge::candidates`].
    pub fn candidates(&self, source: PageId, most: usize) -> Vec<Candidate> {
        let anchors = self.judge.book.anchors();
        self.judge.ranked(&self.portraits, source, most, |target| !anchors.is_linked_in_prose(source, target))
    }

    /// As [`Judge::chosen`], and beside these the best place for each other target. O(candidates²).
    pub fn both_ways(
        &self,
        source: PageId,
        unwanted: &impl Unwanted,
        manners: Manners<'_>,
        limits: Limits,
    ) -> BothWays {
        let row = self.candidates(source, limits.most_candidates());
        let need = |target| self.needs.of(target, || self.judge.need(target));
        let wanted = self.judge.wanted_of(&row, need, source, unwanted, limits);
        let chosen = self.judge.choose(source, wanted.clone(), &unwanted.planned(source), manners, limits.most);
        let mut reached: FxHashSet<PageId> = chosen.iter().map(|(candidate, _)| candidate.target).collect();
        let mut beside = wanted;
        beside.sort_by(better_first);
        beside.retain(|(candidate, _)| reached.insert(candidate.target));
        BothWays { chosen, beside }
    }
}

impl<'j> Judge<'j> {
    /// To judge many pages. Nothing is looked at yet.
    pub fn sit(self) -> Sitting<'j> {
        Sitting { judge: self, portraits: Portraits::new(self.site, self.book), needs: Memo::default() }
    }

    /// The best places of a page for each target that its running text does not lead to, at most `most` places, the
    /// best first, and then the best one for each target that has none among these, so that nothing is missed in the other
    /// direction. They hang on texts and names, not on decisions. O(words of the page and of the pages it mentions).
    pub fn candidates(self, source: PageId, most: usize) -> Vec<Candidate> {
        self.sit().candidates(source, most)
    }

    /// All places of a page for one target.
    pub fn places(self, source: PageId, target: PageId) -> Vec<Candidate> {
        self.places_for(source, |page| page == target)
    }

    /// All places of a page for some targets.
    pub(super) fn places_for(self, source: PageId, wanted: impl Fn(PageId) -> bool) -> Vec<Candidate> {
        self.ranked(&Portraits::new(self.site, self.book), source, usize::MAX, wanted)
    }

    fn ranked(
        self,
        portraits: &Portraits<'j>,
        source: PageId,
        most: usize,
        wanted: impl Fn(PageId) -> bool,
    ) -> Vec<Candidate> {
        let per_target = if most == usize::MAX { usize::MAX } else { MOST_PLACES };
        let answers = answers(portraits, self.book, self.ensemble, source, wanted);
        let mut all: Vec<_> = answers.into_iter().filter_map(Candidate::of).collect();
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
        need_features(self.book, &figures, target, &mut features);
        Need { figures, adds: self.ensemble.part(Part::Need, &features) }
    }

    pub(super) fn weigh_with(self, source: PageId, candidate: &Candidate, need: &Need) -> Weighed {
        let mut parts = candidate.parts;
        parts[Part::Need as usize] = need.adds;
        let untaught = self.taste.untaught(parts, candidate.sureness, self.site.depth(source), &need.figures);
        let adds = self.taste.taught(untaught);
        let sum = adds.iter().sum::<f32>();
        let kept = |sum: f32| self.ensemble.promise(sum).0 + self.taste.keeps;
        let without_need = kept(sum - adds[Part::Need as usize]);
        Weighed { untaught, adds, log_odds: kept(sum), without_need }
    }
}
