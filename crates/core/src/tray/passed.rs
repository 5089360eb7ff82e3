//! What the editor passed: one place, a pair of pages, or all that would lead to a page.

use std::collections::{HashMap, HashSet};

use crate::document::ContentHash;
use crate::ids::PageId;

/// What is set aside.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Passed {
    /// `None` for all pages.
    pub source: Option<PageId>,
    pub target: PageId,
    /// The words, to recognise it by.
    pub anchor: String,
    /// `None` for all places of the pair.
    pub place: Option<PassedPlace>,
}

/// One place, known again by the sentence around its words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PassedPlace {
    pub before: String,
    pub after: String,
}

impl Passed {
    /// By what the place is known again.
    pub fn place_key(&self) -> Option<ContentHash> {
        self.place.as_ref().map(|place| key_of(&place.before, &self.anchor, &place.after))
    }
}

/// The key of words in their sentence, white space folded. O(n).
pub(super) fn key_of(before: &str, anchor: &str, after: &str) -> ContentHash {
    ContentHash::of(&format!("{before}\0{anchor}\0{after}"))
}

/// What was passed, by the page to which it would lead.
#[derive(Debug, Default)]
pub struct Passes(HashMap<PageId, ToPage>);

#[derive(Debug, Default)]
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

    /// Whether links from one page to another are passed, wherever they would stand. O(1).
    pub fn is_pair_passed(&self, source: PageId, target: PageId) -> bool {
        self.0.get(&target).is_some_and(|passes| passes.for_all || passes.from.contains(&source))
    }

    /// Whether there is a passed place of this pair, so that it is worth to work out what a place is.
    pub fn has_places(&self, source: PageId, target: PageId) -> bool {
        let of_target = self.0.get(&target);
        of_target.is_some_and(|passes| passes.places.iter().any(|(from, _)| *from == source))
    }

    /// Whether a place, known by the hash of its words, is passed for a target. O(1).
    pub fn is_place_passed(&self, source: PageId, target: PageId, place: &ContentHash) -> bool {
        self.0.get(&target).is_some_and(|passes| passes.places.contains(&(source, *place)))
    }
}
