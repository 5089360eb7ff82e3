//! How many places rules have on a site.

use std::collections::HashMap;
use std::sync::Arc;

use strelm_core::rules::RuleId;

use super::place::{PlaceState, RulePlaces};

/// The places of a rule.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct RuleCounts {
    /// Pages with a place.
    pub pages: u32,
    /// Places that it would link, that are in the tray, that carry its link, and that something holds back.
    pub wanted: u32,
    pub planned: u32,
    pub there: u32,
    pub held: u32,
}

/// The places of all rules that are on.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct RuleTally(pub HashMap<RuleId, RuleCounts>);

/// A tally as far as it is known.
#[derive(Debug, Clone)]
pub struct Tallied {
    /// `None` when nothing was counted yet.
    pub tally: Option<Arc<RuleTally>>,
    /// Whether nothing changed since.
    pub is_fresh: bool,
}

/// What a tally was counted of: rules, texts, and what the tray and the links of the site are.
pub(crate) type TallyRevision = (u64, u64, u64);

#[derive(Debug, Clone)]
pub(crate) struct KeptTally {
    pub tally: Arc<RuleTally>,
    pub of: TallyRevision,
}

impl RuleTally {
    /// Counts the places of a page. O(places × rules on the page).
    pub fn add(&mut self, page: &RulePlaces) {
        let mut before: Vec<RuleId> = Vec::new();
        for place in &page.places {
            let counts = self.0.entry(place.rule).or_default();
            if !before.contains(&place.rule) {
                before.push(place.rule);
                counts.pages += 1;
            }
            match place.state {
                PlaceState::Wanted => counts.wanted += 1,
                PlaceState::Planned => counts.planned += 1,
                PlaceState::There => counts.there += 1,
                PlaceState::Held(_) => counts.held += 1,
            }
        }
    }
}
