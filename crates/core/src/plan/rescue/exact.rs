//! The best plan by looking at all, where these are few.

use super::audience::Audience;
use super::draft::{Draft, Worth};
use super::problem::Problem;

/// Drafts that are looked at before it is given up.
const MOST_STEPS: usize = 60_000;

/// After so many it is asked whether to go on.
const ASKED_AFTER: usize = 64;

/// More candidates are never looked at this way.
pub(super) const MOST_CANDIDATES: usize = 40;

/// The best plan, better than one that is known; `None` when there is none. The second value tells whether all were looked
/// at, so that nothing is better than what is known or found; it is given up when that takes too long, or `audience` does not
/// go on. O(steps · (pages + links)).
///
/// Candidates are taken or left one after the other. More links never take help away, so what all that are open would
/// help is the most that can come of it.
pub(super) fn best(problem: &Problem<'_>, known: Worth, audience: &mut impl Audience) -> (Option<Vec<u32>>, bool) {
    let mut search = Search { problem, audience, best: known, found: None, steps: 0, is_given_up: false };
    // The cheap ones of pages with many come first, so that good plans are found soon.
    let mut order: Vec<u32> =
        (0u32..).zip(problem.candidates()).filter(|(_, candidate)| !candidate.fixed).map(|(at, _)| at).collect();
    order.sort_by(|one, other| {
        let many = |at: u32| problem.on(problem.candidate(at).from).len();
        many(*other)
            .cmp(&many(*one))
            .then(problem.candidate(*one).from.cmp(&problem.candidate(*other).from))
            .then(problem.candidate(*one).cost.total_cmp(&problem.candidate(*other).cost))
    });
    search.go_on(&order, &mut Vec::new());
    (search.found, !search.is_given_up)
}

struct Search<'p, 's, A> {
    problem: &'p Problem<'s>,
    audience: &'p mut A,
    best: Worth,
    found: Option<Vec<u32>>,
    steps: usize,
    is_given_up: bool,
}

impl<A: Audience> Search<'_, '_, A> {
    fn go_on(&mut self, open: &[u32], chosen: &mut Vec<u32>) {
        self.steps += 1;
        let is_asked = self.steps.is_multiple_of(ASKED_AFTER);
        self.is_given_up |= self.steps > MOST_STEPS || is_asked && !self.audience.goes_on();
        if self.is_given_up {
            return;
        }
        let draft = Draft::with(self.problem, chosen.iter().copied());
        let worth = draft.worth();
        if worth.is_better_than(&self.best) {
            self.best = worth;
            self.found = Some(chosen.clone());
        }
        let Some((first, rest)) = open.split_first() else { return };
        let mut all = draft.clone();
        open.iter().filter(|at| draft.may(**at)).for_each(|at| all.add(*at));
        let most = Worth { helped: all.worth().helped, ..worth };
        if !most.is_better_than(&self.best) {
            return;
        }
        if draft.may(*first) {
            chosen.push(*first);
            self.go_on(rest, chosen);
            chosen.pop();
        }
        self.go_on(rest, chosen);
    }
}
