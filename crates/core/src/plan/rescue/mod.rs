//! Rescue: the smallest set of openings that brings pages within reach.
//!
//! Reaching is a branching, the links in are a covering; together they are as hard as covering. A plan is made by the next
//! best page to edit, trimmed, and made better by taking some pages off and filling up anew for as long as whoever asks
//! waits. Few candidates are searched to the end. A bound tells how far the plan is from the best possible.

mod aim;
mod audience;
mod bound;
mod chance;
mod draft;
mod exact;
mod greedy;
mod left;
mod next_step;
mod problem;

use rustc_hash::{FxHashMap, FxHashSet};

pub use self::aim::{helpful, lacking};
pub use self::audience::{Audience, Better, Patient};
use self::chance::Chance;
use self::draft::Draft;
pub use self::draft::Worth;
use self::greedy::Taste;
pub use self::left::{Left, left};
pub use self::next_step::{NextStep, next_step};
use self::problem::FAR;
pub use self::problem::{Candidate, Problem, RescueLimits};

/// Pages that are taken off a plan at a time, at most, to be filled up anew.
const MOST_TAKEN_OFF: usize = 6;

/// So many attempts in a row that gained nothing are enough, beside some for each page that is edited.
const ENOUGH: usize = 200;

/// Links that are put one behind the other for one page, at most.
const MOST_STEPS: usize = 4;

/// A set of links, how good it is, and how good any could be.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// The chosen candidates by their places in [`Problem::candidates`], in that order.
    pub chosen: Vec<u32>,
    /// How good it is.
    pub worth: Worth,
    /// No plan that helps the same pages edits fewer pages than this.
    pub least_edited: u32,
    /// Whether no plan is better.
    pub is_best: bool,
    /// Wanted pages that it does not help, and why.
    pub left: Vec<(u32, Why)>,
}

/// Why a plan does not help a page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Why {
    /// No candidate leads to it or to a page from which it can be reached.
    NoLink,
    /// Only so many pages could link to it, and too few do.
    TooFew {
        /// Pages that link to it, and could.
        most: u32,
    },
    /// All ways to it would be too long.
    TooDeep,
    /// What could help it clashes with other links, or stands on pages that carry as many new links as they may.
    Crowded,
}

/// The plan that goes page by page and improves nothing: what others are measured by.
pub fn plain(problem: &Problem<'_>) -> Worth {
    let mut draft = Draft::of(problem);
    greedy::fill(&mut draft, usize::MAX, Taste::Plain);
    draft.worth()
}

/// The best plan that is found as long as `audience` goes on.
///
/// The first plan takes O(edited pages · candidates on some pages); each attempt at a better one the same for the pages
/// that were taken off. Given the same problem it comes to the same plan, unless it is stopped.
pub fn solve(problem: &Problem<'_>, audience: &mut impl Audience) -> Plan {
    plan(problem, audience, problem.candidates().len() <= exact::MOST_CANDIDATES)
}

/// The same without looking at all plans where these are few: as large sites get it.
pub fn approximate(problem: &Problem<'_>, audience: &mut impl Audience) -> Plan {
    plan(problem, audience, false)
}

fn plan(problem: &Problem<'_>, audience: &mut impl Audience, looks_at_all: bool) -> Plan {
    let mut draft = Draft::of(problem);
    greedy::fill(&mut draft, usize::MAX, Taste::Plain);
    let all: FxHashSet<u32> = draft.edited().into_iter().collect();
    let mut draft = greedy::trim(draft, &all);
    audience.hears(Better::of(&draft));
    let mut is_best = false;
    if looks_at_all {
        let (found, all) = exact::best(problem, draft.worth(), audience);
        if let Some(found) = found {
            draft = Draft::with(problem, found);
            audience.hears(Better::of(&draft));
        }
        is_best = all;
    }
    let helped = |draft: &Draft<'_, '_>| -> Vec<u32> {
        problem.wanted.iter().copied().filter(|page| draft.is_helped(*page)).collect()
    };
    let mut least_edited = bound::least_edited(problem, &helped(&draft));
    if !is_best {
        let before = helped(&draft);
        draft = improve(draft, least_edited, audience);
        if helped(&draft) != before {
            least_edited = bound::least_edited(problem, &helped(&draft));
        }
    }
    let worth = draft.worth();
    if is_best {
        least_edited = worth.edited;
    }
    let left = reasons(problem, &draft);
    Plan { chosen: draft.chosen(), worth, least_edited, is_best, left }
}

/// Takes some pages off, fills up anew with a little chance, and keeps what is not worse: large neighbourhood search, after
/// Shaw, “Using constraint programming and local search methods to solve vehicle routing problems” (1998).
fn improve<'p, 's>(draft: Draft<'p, 's>, least: u32, audience: &mut impl Audience) -> Draft<'p, 's> {
    let mut best = draft.clone();
    let mut current = draft;
    let mut chance = Chance::of(0x9e37_79b9_7f4a_7c15);
    // Whom more links could help, were others not in their way.
    let problem = best.problem;
    let hopeless: FxHashSet<u32> =
        reasons(problem, &best).into_iter().filter(|(_, why)| *why != Why::Crowded).map(|(page, _)| page).collect();
    let enough = ENOUGH + 20 * best.edited().len();
    let mut in_vain = 0;
    while in_vain < enough && audience.goes_on() {
        in_vain += 1;
        let left: Vec<u32> = current.left().filter(|page| !hopeless.contains(page)).collect();
        let mut trial = match left.is_empty() || chance.below(2) == 0 {
            true => current.without(&neighbours(&current, &mut chance)),
            false => with_a_way_to(&current, left[chance.below(left.len())], &mut chance),
        };
        // As long as somebody is left, more pages may be edited.
        let most_new = match left.is_empty() {
            true => current.edited().len().saturating_sub(trial.edited().len()),
            false => usize::MAX,
        };
        greedy::fill(&mut trial, most_new, Taste::Of(chance.next()));
        let known = current.worth();
        if trial.worth().helped < known.helped {
            continue;
        }
        let is_new = |page: &u32| trial.on(*page) != current.on(*page);
        let touched: FxHashSet<u32> = trial.edited().into_iter().filter(is_new).collect();
        trial = greedy::trim(trial, &touched);
        if known.is_better_than(&trial.worth()) {
            continue;
        }
        current = trial;
        if current.worth().is_better_than(&best.worth()) {
            best = current.clone();
            in_vain = 0;
            audience.hears(Better::of(&best));
        }
        let is_done = left.is_empty() && best.worth().edited <= least && in_vain > ENOUGH;
        if is_done {
            break;
        }
    }
    best
}

/// A draft with a way to a page: a link into it, or into one from which it can be reached; where that link would stand on a
/// page that cannot be reached, a way to this one. Links that clash with these are left out.
fn with_a_way_to<'p, 's>(draft: &Draft<'p, 's>, page: u32, chance: &mut Chance) -> Draft<'p, 's> {
    let problem = draft.problem;
    let mut chosen = draft.chosen();
    let mut into = page;
    for _ in 0..MOST_STEPS {
        // The page itself may have all the links that it needs.
        while chance.below(3) == 0 {
            let before = problem.reversed.ends(into).iter().copied();
            let before: Vec<u32> = before.filter(|from| draft.depth(*from) == FAR).collect();
            if before.is_empty() {
                break;
            }
            into = before[chance.below(before.len())];
        }
        let candidates = problem.to(into);
        if candidates.is_empty() {
            break;
        }
        let at = candidates[chance.below(candidates.len())];
        if !make_room(problem, &mut chosen, at, chance) {
            break;
        }
        chosen.push(at);
        let from = problem.candidate(at).from;
        if draft.depth(from) < problem.limits.depth {
            break;
        }
        into = from;
    }
    Draft::with(problem, chosen)
}

/// Takes off what a candidate clashes with, and one more where its page has no room; whether that is possible.
fn make_room(problem: &Problem<'_>, chosen: &mut Vec<u32>, at: u32, chance: &mut Chance) -> bool {
    let candidate = *problem.candidate(at);
    let is_in_the_way = |other: &u32| {
        let other = problem.candidate(*other);
        let is_beside = other.from == candidate.from;
        let clashes = is_beside && (other.to == candidate.to || other.sentence == candidate.sentence);
        let points_back = (other.from, other.to) == (candidate.to, candidate.from);
        clashes || !problem.limits.pairs && points_back
    };
    if chosen.iter().any(|other| is_in_the_way(other) && problem.candidate(*other).fixed) {
        return false;
    }
    chosen.retain(|other| !is_in_the_way(other));
    let is_beside = |other: &u32| problem.candidate(*other).from == candidate.from;
    if chosen.iter().copied().filter(|other| is_beside(other)).count() < problem.room(candidate.from) {
        return true;
    }
    let is_loose = |other: &u32| is_beside(other) && !problem.candidate(*other).fixed;
    let loose: Vec<u32> = chosen.iter().copied().filter(is_loose).collect();
    if loose.is_empty() {
        return false;
    }
    let one = loose[chance.below(loose.len())];
    chosen.retain(|other| *other != one);
    true
}

/// Some edited pages that help the same pages, or could.
fn neighbours(draft: &Draft<'_, '_>, chance: &mut Chance) -> FxHashSet<u32> {
    let edited = draft.edited();
    let mut off: FxHashSet<u32> = FxHashSet::default();
    if edited.is_empty() {
        return off;
    }
    let most = 1 + chance.below(MOST_TAKEN_OFF.min(edited.len()));
    let mut at = edited[chance.below(edited.len())];
    while off.len() < most {
        off.insert(at);
        // Another page that could link to what this one links to, else any.
        let on = draft.on(at);
        let target = draft.problem.candidate(on[chance.below(on.len())]).to;
        let beside: Vec<u32> = draft
            .problem
            .to(target)
            .iter()
            .map(|other| draft.problem.candidate(*other).from)
            .filter(|page| !off.contains(page) && !draft.on(*page).is_empty())
            .collect();
        at = match beside.is_empty() {
            false => beside[chance.below(beside.len())],
            true => edited[chance.below(edited.len())],
        };
        if off.contains(&at) && beside.is_empty() && chance.below(4) == 0 {
            break;
        }
    }
    off
}

/// Why each page is left that is not helped.
fn reasons(problem: &Problem<'_>, draft: &Draft<'_, '_>) -> Vec<(u32, Why)> {
    // Everything at once: whom even that does not help, no plan can.
    let mut all = Draft::of(problem);
    let mut pages: FxHashMap<u32, Vec<u32>> = FxHashMap::default();
    for (at, candidate) in (0u32..).zip(problem.candidates()) {
        let targets = pages.entry(candidate.from).or_default();
        if !targets.contains(&candidate.to) {
            targets.push(candidate.to);
            all.add(at);
        }
    }
    let why = |page: u32| {
        if all.depth(page) == FAR {
            return Why::NoLink;
        }
        let could: FxHashSet<u32> = problem.to(page).iter().map(|at| problem.candidate(*at).from).collect();
        let most = problem.links_in[page as usize] + u32::try_from(could.len()).unwrap_or(u32::MAX);
        match () {
            () if most < problem.limits.links_in => Why::TooFew { most },
            () if all.depth(page) > problem.limits.depth => Why::TooDeep,
            () => Why::Crowded,
        }
    };
    draft.left().map(|page| (page, why(page))).collect()
}
