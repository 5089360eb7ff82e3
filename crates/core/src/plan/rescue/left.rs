//! Whom a plan leaves, and who would come with whom.

use rustc_hash::FxHashSet;

use super::{Plan, Why};
use crate::reach::{Snapshot, Ways, islands};

/// A page that a plan does not help.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Left {
    /// Its number.
    pub page: u32,
    /// Why no link helps it.
    pub why: Why,
    /// Other pages that are left and could be reached over it, in the order of their numbers: they stand for themselves no
    /// more.
    pub followers: Vec<u32>,
}

/// The pages that a plan leaves, those first that others follow: of an island that is left, all pages that its gate opens follow
/// the gate. `after` is the graph with the plan, and `ways` are its ways. O(pages + roads), as [`islands`].
pub fn left(plan: &Plan, after: &Snapshot, ways: &Ways) -> Vec<Left> {
    let without_link: FxHashSet<u32> =
        plan.left.iter().filter(|(_, why)| *why == Why::NoLink).map(|(page, _)| *page).collect();
    let mut follows: FxHashSet<u32> = FxHashSet::default();
    let mut gates: Vec<Left> = Vec::new();
    for island in islands(after, ways).into_iter().filter(|island| without_link.contains(&island.gate)) {
        let gate = island.gate;
        let follow = |page: &u32| *page != gate && without_link.contains(page);
        let followers: Vec<u32> = island.opened.into_iter().filter(follow).collect();
        follows.extend(followers.iter().copied().chain([gate]));
        gates.push(Left { page: gate, why: Why::NoLink, followers });
    }
    gates.sort_by_key(|gate| (std::cmp::Reverse(gate.followers.len()), gate.page));
    let others = plan.left.iter().filter(|(page, _)| !follows.contains(page));
    gates.extend(others.map(|(page, why)| Left { page: *page, why: *why, followers: Vec::new() }));
    gates
}
