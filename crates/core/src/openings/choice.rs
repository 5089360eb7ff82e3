//! A page's openings as a set: what is good for the page as a whole, not only pair by pair.

use rustc_hash::{FxHashMap, FxHashSet};

use super::candidate::{Candidate, Weighed, better_first};
use super::policy::Manners;
use crate::document::TextSpan;
use crate::ids::PageId;
use crate::language::fold;
use crate::limits::{Carried, ReleaseLoad};
use crate::phrases::Prose;
use crate::site::Target;

/// How much less an opening counts for each other one in its paragraph, in log-odds.
const CROWDED: f32 = 0.5;

/// How much less for each link in the tray with the same words to the same page beyond the first few.
const WORN: f32 = 0.25;
const NOT_WORN: usize = 2;

/// What stands on a page already, those in the tray included.
struct OnPage<'p> {
    prose: &'p Prose,
    carried: Carried,
    by_block: FxHashMap<u32, usize>,
}

/// The best set of openings for a page, the fittest first: one for each target, no words twice, within the limits,
/// spread over the page, words in which the site has some variety. `found` are candidates with what they are
/// worth, in any order; `planned` are links in the tray on the page's words. O(candidates²).
pub(super) fn choose(
    prose: &Prose,
    mut found: Vec<(Candidate, Weighed)>,
    planned: &[TextSpan],
    manners: Manners<'_>,
    most: usize,
) -> Vec<(Candidate, Weighed)> {
    let mut on_page = OnPage::of(prose, planned);
    found.sort_by(better_first);
    // Their numbers, which are moved up more quickly than they are.
    let mut left: Vec<usize> = (0..found.len()).collect();
    let mut targets: FxHashSet<PageId> = FxHashSet::default();
    let mut chosen: Vec<(Candidate, Weighed)> = Vec::new();
    while chosen.len() < most {
        let worth = |(candidate, weighed): &(Candidate, Weighed)| {
            let worn = on_page.uses(candidate, manners).saturating_sub(NOT_WORN) as f32;
            let crowd = if manners.limits.is_some() { on_page.crowd(candidate) as f32 } else { 0.0 };
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
        if targets.contains(&candidate.target) || !on_page.takes(&candidate, manners) {
            continue;
        }
        targets.insert(candidate.target);
        on_page.put(&candidate);
        chosen.push((candidate, weighed));
    }
    chosen.sort_by(|a, b| b.1.log_odds.total_cmp(&a.1.log_odds).then(a.0.target.cmp(&b.0.target)));
    chosen
}

impl<'p> OnPage<'p> {
    fn of(prose: &'p Prose, planned: &[TextSpan]) -> Self {
        let mut carried = prose.carried();
        carried.links.extend(planned);
        Self { prose, carried, by_block: FxHashMap::default() }
    }

    fn words(&self, candidate: &Candidate) -> TextSpan {
        self.prose.words(candidate.first(), candidate.end())
    }

    fn block(&self, candidate: &Candidate) -> u32 {
        self.prose.block_of(candidate.first()).map_or(0, |block| block.first)
    }

    fn crowd(&self, candidate: &Candidate) -> usize {
        self.by_block.get(&self.block(candidate)).copied().unwrap_or_default()
    }

    fn uses(&self, candidate: &Candidate, manners: Manners<'_>) -> usize {
        let Some(worn) = manners.worn.filter(|worn| !worn.is_empty()) else { return 0 };
        worn.get(&(fold(self.shown(candidate)), candidate.target)).copied().unwrap_or_default()
    }

    fn shown(&self, candidate: &Candidate) -> &str {
        self.prose.text().get(self.words(candidate).range()).unwrap_or_default()
    }

    fn takes(&self, candidate: &Candidate, manners: Manners<'_>) -> bool {
        let words = self.words(candidate);
        if !manners.words_twice && self.carried.links.iter().any(|link| link.overlaps(words)) {
            return false;
        }
        let Some(limits) = manners.limits else { return true };
        let fits_release =
            |load: &ReleaseLoad| load.one_more(limits, &Target::Page(candidate.target), self.shown(candidate)).is_ok();
        let sentence = self.prose.sentence_around(words);
        limits.one_more(&self.carried, || candidate.first(), Some(sentence)).is_ok()
            && manners.load.is_none_or(fits_release)
    }

    fn put(&mut self, candidate: &Candidate) {
        self.carried.links.push(self.words(candidate));
        *self.by_block.entry(self.block(candidate)).or_default() += 1;
    }
}
