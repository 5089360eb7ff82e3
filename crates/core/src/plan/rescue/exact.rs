//! The best plan by looking at all, where these are few.

use super::draft::{Draft, Worth};
use super::problem::Problem;

/// Draughts that are looked at before it is given up.
const MOST_STEPS: usize = 60_000;

/// More candidates are never looked at this way.
pub(super) const MOST_CANDIDATES: usize = 40;

/// The best plan, better than one that is known; `None` when there is none. The second value tells whether all were looked
/// at, so that nothing is better than what is known or found. O(steps · (pages + links)).
///
/// Candidates are taken or left one after the other. More links never take help away, so what all that are open would
/// help is the most that can come of it.
pub(super) fn best(problem: &Problem<'_>, known: Worth) -> (Option<Vec<u32>>, bool) {
    let mut search = Search { problem, best: known, found: None, steps: 0 };
    // The cheap ones of pages with many come first, so that good plans are found soon.
    let mut order: Vec<u32> = (0u32..).take(problem.candidates().len()).collect();
    order.sort_by(|one, other| {
        let many = |at: u32| problem.on(problem.candidate(at).from).len();
        many(*other)
            .cmp(&many(*one))
            .then(problem.candidate(*one).from.cmp(&problem.candidate(*other).from))
            .then(problem.candidate(*one).cost.total_cmp(&problem.candidate(*other).cost))
    });
    search.go_on(&order, &mut Vec::new());
    (search.found, search.steps <= MOST_STEPS)
}

struct Search<'p, 's> {
    problem: &'p Problem<'s>,
    best: Worth,
    found: Option<Vec<u32>>,
    steps: usize,
}

impl Search<'_, '_> {
    fn go_on(&mut self, open: &[u32], chosen: &mut Vec<u32>) {
        self.steps += 1;
        if self.steps > MOST_STEPS {
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
