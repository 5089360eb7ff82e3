//! What the editor passed.

use std::collections::{HashMap, HashSet};

use strelm_core::document::ContentHash;
use strelm_core::site::PageId;
use strelm_store::passed::Passed;

/// What was passed, by the page to which it would lead.
#[derive(Default)]
pub struct Passes(HashMap<PageId, ToPage>);

#[derive(Default)]
struct ToPage {
    for_all: bool,
    from: HashSet<PageId>,
    places: HashSet<(PageId, ContentHash)>,
}

impl Passes {
    /// Replaces all that is known of these targets.
    pub fn set(&mut self, targets: &[PageId], passed: Vec<Passed>) {
        for target in targets {
            self.0.remove(target);
        }
        for passed in passed {
            let of_target = self.0.entry(passed.target).or_default();
            match (passed.source, passed.place_key()) {
                (None, _) => of_target.for_all = true,
                (Some(source), None) => drop(of_target.from.insert(source)),
                (Some(source), Some(place)) => drop(of_target.places.insert((source, place))),
            }
        }
    }

    pub fn is_pair_passed(&self, source: PageId, target: PageId) -> bool {
        self.0.get(&target).is_some_and(|passes| passes.for_all || passes.from.contains(&source))
    }

    /// Whether there is a passed place of this pair, so that it is worth to work out what a place is.
    pub fn has_places(&self, source: PageId, target: PageId) -> bool {
        let of_target = self.0.get(&target);
        of_target.is_some_and(|passes| passes.places.iter().any(|(from, _)| *from == source))
    }

    pub fn is_place_passed(&self, source: PageId, target: PageId, place: &ContentHash) -> bool {
        self.0.get(&target).is_some_and(|passes| passes.places.contains(&(source, *place)))
    }
}
