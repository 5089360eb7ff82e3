//! Whom a rescue is to help, and which pages may have to come within reach for it.

use std::collections::BTreeSet;

use super::problem::RescueLimits;
use crate::reach::{Roads, Snapshot, Ways};

/// The pages that are out of reach, too deep or with too few links in, in the order of their numbers; those on which readers
/// start are where they are to be. O(pages).
pub fn lacking(snapshot: &Snapshot, ways: &Ways, reversed: &Roads, limits: RescueLimits) -> Vec<u32> {
    let lacks = |page: &u32| {
        let links_in = u32::try_from(reversed.ends(*page).len()).unwrap_or(u32::MAX);
        ways.depth(*page).is_none_or(|depth| depth > limits.depth) || links_in < limits.links_in
    };
    snapshot.numbers().filter(|page| !snapshot.is_entry(*page) && lacks(page)).collect()
}

/// These pages, and those too far off from which they can be reached: rescuing one of these may help several. O(roads among
/// them).
pub fn helpful(wanted: &[u32], ways: &Ways, reversed: &Roads, limits: RescueLimits) -> BTreeSet<u32> {
    let mut found: BTreeSet<u32> = wanted.iter().copied().collect();
    let mut queue: Vec<u32> = wanted.to_vec();
    while let Some(page) = queue.pop() {
        for from in reversed.ends(page) {
            if ways.depth(*from).is_none_or(|of| of > limits.depth) && found.insert(*from) {
                queue.push(*from);
            }
        }
    }
    found
}
