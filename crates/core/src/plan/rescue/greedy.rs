//! A plan by the next best page to edit, and another, until nothing more helps; and what of a plan is not needed.

use std::collections::BinaryHeap;

use rustc_hash::FxHashSet;

use super::chance::Chance;
use super::draft::Draft;
use super::problem::FAR;

/// What a page is worth that comes near enough, beside a link in that is lacking.
const NEAR: f64 = 1.0;
const LINK_IN: f64 = 1.0;
/// The same for a page that nobody wants: it may carry links to one that is wanted.
const STEP: f64 = 0.02;

/// Links for which cheaper ones are sought at a time: each costs as much as the plan is long.
const MOST_SWAPS: usize = 200;

/// Links for a page to edit, and what they gain for each page that is edited.
struct Choice {
    links: Vec<u32>,
    gain: f64,
}

/// A page that may be edited, by what it gained when it was last looked at.
struct Ranked {
    gain: f64,
    page: u32,
}

impl PartialEq for Ranked {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for Ranked {}

impl PartialOrd for Ranked {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Ranked {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.gain.total_cmp(&other.gain).then(other.page.cmp(&self.page))
    }
}

/// What a page and a link count beside others: as they gain, or with a little chance, so that something else is tried.
#[derive(Debug, Clone, Copy)]
pub(super) enum Taste {
    Plain,
    /// Each page and each link counts 0.7 to 1.3 times, as this number has it.
    Of(u64),
}

impl Taste {
    fn counts(self, of: u64) -> f64 {
        match self {
            Self::Plain => 1.0,
            Self::Of(seed) => 0.7 + 0.6 * Chance::of(seed ^ (of + 1).wrapping_mul(0xd6e8_feb8_6659_fd93)).share(),
        }
    }

    fn of_page(self, page: u32) -> f64 {
        self.counts(u64::from(page))
    }

    fn of_link(self, at: u32) -> f64 {
        self.counts(u64::from(at) << 32)
    }
}

/// Adds links to a draft until nothing more helps, at most on so many pages that are not edited yet. O(pages that are
/// edited · candidates on some pages).
pub(super) fn fill(draft: &mut Draft<'_, '_>, most_new: usize, taste: Taste) {
    let mut seen = Vec::new();
    let sources = draft.sources_for_left();
    draft.take_nearer();
    let gain_of = |draft: &Draft<'_, '_>, page: u32, seen: &mut Vec<u32>| {
        choose(draft, page, taste, seen).map(|choice| Ranked { gain: choice.gain, page })
    };
    let mut ranked: BinaryHeap<Ranked> = sources.iter().filter_map(|page| gain_of(draft, *page, &mut seen)).collect();
    let mut new = 0;
    while let Some(best) = ranked.pop() {
        let Some(choice) = choose(draft, best.page, taste, &mut seen) else { continue };
        let gain = choice.gain;
        // What was chosen since may have left less for it.
        if ranked.peek().is_some_and(|next| next.gain > gain + 1e-12) {
            ranked.push(Ranked { gain, page: best.page });
            continue;
        }
        let is_new = draft.on(best.page).is_empty();
        if is_new && new == most_new {
            continue;
        }
        new += usize::from(is_new);
        choice.links.iter().for_each(|at| draft.add(*at));
        // From pages that came nearer, links lead on that led nowhere before.
        let nearer = draft.take_nearer().into_iter().filter(|page| sources.binary_search(page).is_ok());
        let mut again: Vec<u32> = nearer.chain([best.page]).collect();
        again.sort_unstable();
        again.dedup();
        ranked.extend(again.into_iter().filter_map(|page| gain_of(draft, page, &mut seen)));
    }
}

/// The links that gain most on a page, one after the other; `None` where none gains anything.
fn choose(draft: &Draft<'_, '_>, page: u32, taste: Taste, seen: &mut Vec<u32>) -> Option<Choice> {
    let (mut links, mut total): (Vec<u32>, f64) = (Vec::new(), 0.0);
    let room = draft.problem.room(page).saturating_sub(draft.on(page).len());
    let mut counted: FxHashSet<u32> = FxHashSet::default();
    while links.len() < room {
        let mut best: Option<(f64, u32)> = None;
        for at in draft.problem.on(page).filter(|at| draft.may(*at)) {
            let candidate = draft.problem.candidate(at);
            let clashes = |other: &u32| {
                let other = draft.problem.candidate(*other);
                other.to == candidate.to || other.sentence == candidate.sentence
            };
            if links.iter().any(clashes) {
                continue;
            }
            let lacks = draft.problem.is_wanted[candidate.to as usize] && draft.lacks(candidate.to) > 0;
            let (near, steps) = draft.brought_near(at, &counted, seen);
            let gain = NEAR * f64::from(near) + STEP * f64::from(steps) + if lacks { LINK_IN } else { 0.0 };
            // A link that costs little is as good as a little more gain.
            let gain = if gain > 0.0 { (gain - 0.01 * f64::from(candidate.cost)) * taste.of_link(at) } else { 0.0 };
            if gain > best.map_or(0.0, |(known, _)| known) {
                best = Some((gain, at));
            }
        }
        let Some((gain, at)) = best else { break };
        links.push(at);
        total += gain;
        draft.brought_near(at, &counted, seen);
        counted.extend(seen.iter().copied());
    }
    // A page that is edited anyway costs nothing more.
    let counts = taste.of_page(page) * if draft.on(page).is_empty() { 1.0 } else { 100.0 };
    (!links.is_empty()).then_some(Choice { links, gain: total * counts })
}

/// Takes off pages, and then links, without which as many pages are helped; and puts cheaper links in the place of others
/// on pages that are edited anyway. Only some pages are looked at, and those that link where they do. O(these pages ·
/// (pages + links)).
pub(super) fn trim<'p, 's>(draft: Draft<'p, 's>, among: &FxHashSet<u32>) -> Draft<'p, 's> {
    let mut draft = draft;
    let targets = |draft: &Draft<'_, '_>, page: u32| -> Vec<u32> {
        draft.on(page).iter().map(|at| draft.problem.candidate(*at).to).collect()
    };
    let looked_at: FxHashSet<u32> = among.iter().flat_map(|page| targets(&draft, *page)).collect();
    let is_looked_at = |draft: &Draft<'_, '_>, page: u32| {
        among.contains(&page) || targets(draft, page).iter().any(|target| looked_at.contains(target))
    };
    let mut pages: Vec<u32> = draft.edited().into_iter().filter(|page| is_looked_at(&draft, *page)).collect();
    let links = |draft: &Draft<'_, '_>| -> Vec<u32> {
        draft.chosen().into_iter().filter(|at| is_looked_at(draft, draft.problem.candidate(*at).from)).collect()
    };
    pages.sort_by_key(|page| (draft.on(*page).len(), *page));
    for page in pages {
        if !draft.on(page).iter().all(|at| draft.may_do_without(*at)) {
            continue;
        }
        let without = draft.without(&FxHashSet::from_iter([page]));
        if without.worth().is_better_than(&draft.worth()) {
            draft = without;
        }
    }
    for at in links(&draft) {
        if !draft.may_do_without(at) {
            continue;
        }
        let chosen = draft.chosen();
        let without = Draft::with(draft.problem, chosen.into_iter().filter(|other| *other != at));
        if without.worth().is_better_than(&draft.worth()) {
            draft = without;
        }
    }
    for at in links(&draft).into_iter().take(MOST_SWAPS) {
        let candidate = *draft.problem.candidate(at);
        if candidate.fixed {
            continue;
        }
        let left: Vec<u32> = draft.chosen().into_iter().filter(|other| *other != at).collect();
        let base = Draft::with(draft.problem, left);
        let others = draft.problem.to(candidate.to).iter().copied().filter(|other| {
            let other = draft.problem.candidate(*other);
            other.cost < candidate.cost && (other.from == candidate.from || !base.on(other.from).is_empty())
        });
        let mut others: Vec<u32> = others
            .filter(|other| base.may(*other) && base.depth(draft.problem.candidate(*other).from) != FAR)
            .collect();
        others
            .sort_by(|one, other| draft.problem.candidate(*one).cost.total_cmp(&draft.problem.candidate(*other).cost));
        for other in others {
            let mut swapped = base.clone();
            swapped.add(other);
            if swapped.worth().is_better_than(&draft.worth()) {
                draft = swapped;
                break;
            }
        }
    }
    draft
}
