//! The places of rules as editors get them, line by line while pages are looked at.

use serde::Serialize;
use strelm_core::rules::Held;
use strelm_live::Model;
use strelm_live::rules::{PlaceState, RulePlace, RulePlaces};
use utoipa::ToSchema;

use super::counts::PlaceCounts;
use super::leads::RuleLeads;
use crate::api::decisions::TargetWish;
use crate::api::pages::{PageRef, Sentence};
use crate::api::{ApiError, Problem};

/// A line of the answer.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum PlaceNews {
    /// So many of so many pages were looked at; those of the latest that have places.
    Pages(PlacesOfPages),
    /// All of them were; the last line.
    Done(PlacesSummed),
    /// It broke off, and why.
    Failed(Problem),
}

/// Pages with places.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlacesOfPages {
    pub done: usize,
    pub of: usize,
    pub pages: Vec<PageWithPlaces>,
}

/// A page with places.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageWithPlaces {
    pub page: PageRef,
    /// The version of the page, for taking links on it.
    pub version: String,
    /// In text order.
    pub places: Vec<PlaceRow>,
}

/// Words of a page that are a phrase of a rule.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlaceRow {
    pub rule: u32,
    /// Where it leads, for taking the link, and what that is called.
    pub target: TargetWish,
    pub leads: String,
    /// Byte offsets into the text of the page, for taking the link.
    pub words_start: usize,
    pub words_end: usize,
    pub sentence: Sentence,
    /// By which the place is passed.
    pub spot: String,
    pub state: PlaceRowState,
    /// What holds it back, in plain words.
    pub why: Option<String>,
    /// Whether an editor passed it here, and can bring it back.
    pub is_passed: bool,
}

/// What becomes of a place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PlaceRowState {
    Wanted,
    Planned,
    There,
    Held,
}

/// All places together.
#[derive(Debug, Default, Serialize, ToSchema)]
pub struct PlacesSummed {
    pub counts: PlaceCounts,
    /// What holds places back, the most frequent first.
    pub reasons: Vec<HeldReason>,
    /// Rules that have words of these places instead.
    pub rivals: Vec<RuleRival>,
    /// Pages on which there is no room for a link of a rule any more.
    pub crowded: u32,
    /// Whether there are more places than were told.
    pub is_cut: bool,
}

/// What holds places back.
#[derive(Debug, Serialize, ToSchema)]
pub struct HeldReason {
    pub why: String,
    pub count: u32,
}

/// A rule that has words instead.
#[derive(Debug, Serialize, ToSchema)]
pub struct RuleRival {
    pub rule: u32,
    pub count: u32,
}

impl PlaceRow {
    fn of(model: &Model, place: &RulePlace) -> Result<Self, ApiError> {
        let (state, held) = match &place.state {
            PlaceState::Wanted => (PlaceRowState::Wanted, None),
            PlaceState::Planned => (PlaceRowState::Planned, None),
            PlaceState::There => (PlaceRowState::There, None),
            PlaceState::Held(held) => (PlaceRowState::Held, Some(held)),
        };
        Ok(Self {
            rule: place.rule.0,
            target: TargetWish::of(&place.target),
            leads: RuleLeads::of(model, &place.target)?.text,
            words_start: place.words.start,
            words_end: place.words.end,
            sentence: place.said.clone().into(),
            spot: format!("{:016x}", place.spot.0),
            state,
            why: held.map(ToString::to_string),
            is_passed: held == Some(&Held::Exception),
        })
    }
}

impl PageWithPlaces {
    pub fn of(model: &Model, found: &RulePlaces) -> Result<Self, ApiError> {
        Ok(Self {
            page: PageRef::of(model, found.page.0)?,
            version: found.version.to_string(),
            places: found.places.iter().map(|place| PlaceRow::of(model, place)).collect::<Result<_, _>>()?,
        })
    }
}
