//! How many places a rule has, as editors get it.

use serde::Serialize;
use strelm_live::rules::{PlaceState, RuleCounts};
use utoipa::ToSchema;

/// The places of a rule.
#[derive(Debug, Clone, Copy, Default, Serialize, ToSchema)]
pub struct PlaceCounts {
    /// Pages with a place.
    pub pages: u32,
    /// Places that it would link, that are in the tray, that carry its link, and that something holds back.
    pub wanted: u32,
    pub planned: u32,
    pub there: u32,
    pub held: u32,
}

impl From<RuleCounts> for PlaceCounts {
    fn from(RuleCounts { pages, wanted, planned, there, held }: RuleCounts) -> Self {
        Self { pages, wanted, planned, there, held }
    }
}

impl PlaceCounts {
    pub fn add(&mut self, state: &PlaceState) {
        *match state {
            PlaceState::Wanted => &mut self.wanted,
            PlaceState::Planned => &mut self.planned,
            PlaceState::There => &mut self.there,
            PlaceState::Held(_) => &mut self.held,
        } += 1;
    }
}
