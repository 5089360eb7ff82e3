//! A page's openings as a set: what is good for the page as a whole, not only pair by pair.

use rustc_hash::{FxHashMap, FxHashSet};

use super::candidate::{Candidate, Weighed, better_first};
use super::find::Judge;
use crate::document::TextSpan;
use crate::language::{fold, sentence_around};
use crate::limits::LinkLimits;
use crate::phrases::{Prose, TokenMarks};
use crate::site::PageId;

/// How much less an opening counts for each other one in its paragraph, in log-odds.
const CROWDED: f32 = 0.5;

/// How much less for each link in the tray with the same words to the same page beyond the first few.
const WORN: f32 = 0.25;
const NOT_WORN: usize = 2;

/// What holds for all pages of a site.
#[derive(Debug, Clone, Copy, Default)]
pub struct Manners<'m> {
    /// `None` when no limit holds, as for whoever only looks.
    pub limits: Option<LinkLimits>,
    /// How often words, folded, lead to a page in what is taken and not yet out.
    pub worn: Option<&'m FxHashMap<(String, PageId), usize>>,
    /// Whether words may carry links to several pages.
    pub words_twice: bool,
}

/// What stands on a page already.
struct Carried<'p> {
    prose: &'p Prose,
    /// Links that exist, and those in the tray, in text order but for the latter.
    links: Vec<TextSpan>,
    by_block: FxHashMap<u32, usize>,
}

impl Judge<'_> {
    /// The best set of openings for a page, the fittest first: one for each target, no words twice, within the limits,
    /// spread over the page, words in which the site has some variety. `found` are candidates with what they are
    /// worth, in any order; `planned` are links in the tray on the page's words. O(candidates²).
    pub fn choose(
        self,
        source: PageId,
        mut found: Vec<(Candidate, Weighed)>,
        planned: &[TextSpan],
        manners: Manners<'_>,
        most: usize,
    ) -> Vec<(Candidate, Weighed)> {
        let Some(prose) = self.book.prose(source) else { return Vec::new() };
        let mut carried = Carried::of(prose, planned);
        found.sort_by(better_first);
        // Their numbers, which are moved up more quickly than they are.
        let mut left: Vec<usize> = (0..found.len()).collect();
        let mut targets: FxHashSet<PageId> = FxHashSet::default();
        let mut chosen: Vec<(Candidate, Weighed)> = Vec::new();
        while chosen.len() < most {
            let worth = |(candidate, weighed): &(Candidate, Weighed)| {
                let worn = carried.uses(candidate, manners).saturating_sub(NOT_WORN) as f32;
                let crowd = if manners.limits.is_some() { carried.crowd(candidate) as f32 } else { 0.0 };
                weighed.log_odds - CROWDED * crowd - WORN * worn.min(8.0)
            };
            let mut best: Option<(usize, f32)> = None;
            for (at, candidate) in left.iter().map(|number| &found[*number]).enumerate() {
                // They are in order of what they are worth at most.
                if best.is_some_and(|(_, known)| candidate.1.log_odds <= known) {
                    break;
                }
                let worth = worth(candidate);
                if best.is_none_or(|(_, known)| worth > known) {
                    best = Some((at, worth));
                }
            }
            let Some((at, _)) = best else { break };
            let (candidate, weighed) = found[left.remove(at)];
            if targets.contains(&candidate.target) || !carried.takes(&candidate, manners) {
                continue;
            }
            targets.insert(candidate.target);
            carried.put(&candidate);
            chosen.push((candidate, weighed));
        }
        chosen.sort_by(|a, b| b.1.log_odds.total_cmp(&a.1.log_odds).then(a.0.target.cmp(&b.0.target)));
        chosen
    }
}

impl<'p> Carried<'p> {
    fn of(prose: &'p Prose, planned: &[TextSpan]) -> Self {
        let tokens = prose.tokens();
        let is_linked = |at: usize| tokens[at].has(TokenMarks::LINKED);
        let starts = (0..tokens.len()).filter(|at| is_linked(*at) && (*at == 0 || !is_linked(at - 1)));
        let mut links: Vec<_> = starts.map(|at| tokens[at].span()).collect();
        links.extend(planned);
        Self { prose, links, by_block: FxHashMap::default() }
    }

    fn words(&self, candidate: &Candidate) -> TextSpan {
        let tokens = self.prose.tokens();
        TextSpan::new(tokens[candidate.first()].span().start, tokens[candidate.end() - 1].span().end)
    }

    fn block(&self, candidate: &Candidate) -> u32 {
        self.prose.block_of(candidate.first()).map_or(0, |block| block.first)
    }

    fn crowd(&self, candidate: &Candidate) -> usize {
        self.by_block.get(&self.block(candidate)).copied().unwrap_or_default()
    }

    fn uses(&self, candidate: &Candidate, manners: Manners<'_>) -> usize {
        let Some(worn) = manners.worn.filter(|worn| !worn.is_empty()) else { return 0 };
        let shown = self.prose.text().get(self.words(candidate).range()).unwrap_or_default();
        worn.get(&(fold(shown), candidate.target)).copied().unwrap_or_default()
    }

    fn takes(&self, candidate: &Candidate, manners: Manners<'_>) -> bool {
        let words = self.words(candidate);
        if !manners.words_twice && self.links.iter().any(|link| link.overlaps(words)) {
            return false;
        }
        let Some(limits) = manners.limits else { return true };
        if candidate.first() < limits.first_words_free || self.links.len() >= limits.of_page(self.prose.tokens().len())
        {
            return false;
        }
        let Some((block, _)) = self.prose.block_around(words) else { return false };
        let in_block = TextSpan::new(words.start - block.start, words.end - block.start);
        let Some(text) = self.prose.text().get(block.range()) else { return false };
        let sentence = sentence_around(text, in_block);
        let sentence = TextSpan::new(block.start + sentence.start, block.start + sentence.end);
        self.links.iter().filter(|link| link.overlaps(sentence)).count() < limits.per_sentence
    }

    fn put(&mut self, candidate: &Candidate) {
        self.links.push(self.words(candidate));
        *self.by_block.entry(self.block(candidate)).or_default() += 1;
    }
}
