//! The places of rules on a page, and what becomes of each.

use strelm_core::document::{ContentHash, QuotedSentence, TextSpan};
use strelm_core::rules::{Held, RuleId, Spot};
use strelm_core::site::{PageId, Target};

/// What becomes of a place.
#[derive(Debug, Clone, PartialEq)]
pub enum PlaceState {
    /// The rule would link it.
    Wanted,
    /// Its link is in the tray, or on its way.
    Planned,
    /// Its link is there.
    There,
    /// Something is in the way.
    Held(Held),
}

/// Words of a page that are a phrase of a rule.
#[derive(Debug, Clone, PartialEq)]
pub struct RulePlace {
    pub rule: RuleId,
    /// What it leads to, without what it tells other sites.
    pub target: Target,
    /// In the text of the page.
    pub words: TextSpan,
    pub said: QuotedSentence,
    pub spot: Spot,
    pub state: PlaceState,
}

/// All places on a page, in text order.
#[derive(Debug, Clone, PartialEq)]
pub struct RulePlaces {
    pub page: PageId,
    pub version: ContentHash,
    pub places: Vec<RulePlace>,
}
