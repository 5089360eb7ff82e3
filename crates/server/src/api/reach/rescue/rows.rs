//! A plan of rescue as the interface gets it, line by line while it becomes better.

use serde::Serialize;
use strelm_core::plan::rescue::{NextStep, Why};
use strelm_core::site::PageId;
use utoipa::ToSchema;

use super::wish::RescueWish;
use crate::api::Problem;
use crate::api::pages::{OpeningRow, PageRef};
use crate::api::reach::chart::Band;

/// A line of the answer.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum RescueNews {
    /// Openings are looked for: for so many of so many pages they are known.
    Looking { done: usize, of: usize },
    /// A plan, better than all before.
    Plan(Box<RescuePlan>),
    /// What the last plan would change; the last line.
    Effect(RescueEffect),
    /// It broke off, and why.
    Failed(Problem),
}

/// A set of openings.
#[derive(Debug, Serialize, ToSchema)]
pub struct RescuePlan {
    /// Whether it is looked for no more.
    pub is_final: bool,
    /// Whether no plan is better, as far as it is known.
    pub is_best: bool,
    /// Pages that were to be helped, and of those the ones that are.
    pub wanted: u32,
    pub helped: u32,
    /// Pages that are edited; and how few any plan that helps the same pages must edit, when that is known.
    pub edited: u32,
    pub least_edited: Option<u32>,
    /// In the order of the addresses of the pages on which they stand.
    pub rows: Vec<RescueRow>,
    /// How many pages it does not help, and the first of them with those that follow them; known of the final plan.
    pub left_count: usize,
    pub left: Vec<LeftPage>,
    /// Rows to be kept that no longer can: their words carry a link, or are gone.
    pub lost: usize,
}

/// A link of a plan.
#[derive(Debug, Serialize, ToSchema)]
pub struct RescueRow {
    /// The page on which it would stand.
    pub source: PageRef,
    /// Its own page is where it leads.
    pub opening: OpeningRow,
    /// Whether the editor wants it in every plan.
    pub kept: bool,
}

/// A page that a plan does not help.
#[derive(Debug, Serialize, ToSchema)]
pub struct LeftPage {
    pub page: PageRef,
    /// Why, in plain words.
    pub why: String,
    pub step: Step,
    /// The page on which a bridge would stand, or with which it would become one.
    pub with: Option<PageRef>,
    /// Other pages that are left and come within reach with it; at most 30 are named.
    pub follower_count: usize,
    pub followers: Vec<PageRef>,
}

/// What an editor can do instead.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Step {
    /// Allow more: what could help is in the way of other links or of a limit.
    Loosen,
    /// Write a sentence that carries the link.
    Bridge,
    /// Make one page of two that say the same.
    Merge,
    /// Put it into a menu or on an overview page.
    MenuEntry,
    /// Take it off the site.
    Retire,
}

/// What a plan would change.
#[derive(Debug, Serialize, ToSchema)]
pub struct RescueEffect {
    /// Pages in each depth: with the tray, and with the plan too.
    pub bands: Vec<Band>,
    /// Pages with another depth than with the tray alone, and that depth.
    pub numbers: Vec<u32>,
    pub depths: Vec<Option<u32>>,
    /// The pages that gain most link equity, beside the average page, which is 1.
    pub gains: Vec<EquityGain>,
}

/// A page with what it has and would have.
#[derive(Debug, Serialize, ToSchema)]
pub struct EquityGain {
    pub page: PageRef,
    pub before: f64,
    pub after: f64,
}

impl Step {
    /// With the page that it is about.
    pub const fn of(step: NextStep) -> (Self, Option<PageId>) {
        match step {
            NextStep::Bridge { on } => (Self::Bridge, Some(on)),
            NextStep::Merge { with } => (Self::Merge, Some(with)),
            NextStep::MenuEntry => (Self::MenuEntry, None),
            NextStep::Retire => (Self::Retire, None),
        }
    }
}

/// Why a page is left, in plain words.
pub fn reason(why: Why, wish: &RescueWish) -> String {
    match why {
        Why::NoLink => format!("No opening of fit {} or more leads there from within reach.", wish.least_fit.round()),
        Why::TooFew { most } => format!("Only {most} pages link there or could, and {} are asked for.", wish.links_in),
        Why::TooDeep => format!("Every way there is longer than {} clicks.", wish.depth),
        Why::Crowded => "What could help it is in the way of other links, or of the limit for a page.".to_owned(),
    }
}
