//! Judging many pages in one go.

use rustc_hash::FxHashSet;

use super::candidate::{Candidate, Weighed, better_first};
use super::judge::{Judge, Need};
use super::policy::{Limits, Manners, Unwanted};
use super::portrait::{Memo, Portraits};
use crate::ids::PageId;

/// What was found on one page for both directions, the best first.
#[derive(Debug, Clone, PartialEq)]
pub struct BothWays {
    /// The best set for the page.
    pub chosen: Vec<(Candidate, Weighed)>,
    /// What would lead to other pages.
    pub beside: Vec<(Candidate, Weighed)>,
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
}
