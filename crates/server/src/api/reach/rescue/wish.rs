//! What a rescue is to bring about, as an editor says it.

use serde::Deserialize;
use strelm_core::plan::rescue::RescueLimits;
use utoipa::ToSchema;

use crate::api::ApiError;

/// More pages are not left untouched by name, and more rows are not kept.
const MOST_NAMED: usize = 5000;

/// What is to hold for every page that is helped, and for every page that is edited.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct RescueWish {
    /// The pages to be helped; null for all that lack a way or links in.
    pub pages: Option<Vec<u32>>,
    /// Whether thread pages among these are to get a second way, which does not lead over what they hang on.
    #[serde(default)]
    pub second_way: bool,
    /// Clicks from where readers start, at most: 1 to 30.
    pub depth: u32,
    /// Links in from so many different pages, at least: 0 to 20.
    pub links_in: u32,
    /// New links on one page, at most: 1 to 50.
    pub per_page: u32,
    /// Openings of a smaller fit are left out: 0 to 100.
    pub least_fit: f64,
    /// Whether links lead within a category alone.
    pub same_category: bool,
    /// Whether a page may be linked from one that it links to.
    pub both_ways: bool,
    /// Whether links stand on pages with much link equity rather than on those with the highest fit.
    pub prefer_equity: bool,
    /// Pages that are not to be edited.
    pub untouched: Vec<u32>,
    /// Links that every plan has.
    pub kept: Vec<KeptRow>,
    /// How long a better plan is looked for: 1 to 60.
    pub seconds: u32,
}

/// A link that the editor wants in the plan, with its words.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct KeptRow {
    pub source: u32,
    pub target: u32,
    /// Byte offsets into the text of the source page.
    pub words_start: usize,
    pub words_end: usize,
}

impl RescueWish {
    /// # Errors
    /// [`ApiError::Unusable`] for figures that are out of bounds.
    pub fn checked(self) -> Result<Self, ApiError> {
        let bounds = [
            ((1..=30).contains(&self.depth), "The greatest depth is 1 to 30 clicks."),
            (self.links_in <= 20, "At most 20 links in can be asked for."),
            ((1..=50).contains(&self.per_page), "A page can get 1 to 50 new links."),
            ((0.0..=100.0).contains(&self.least_fit), "The least fit is 0 to 100."),
            ((1..=60).contains(&self.seconds), "A plan is looked for for 1 to 60 seconds."),
            (self.untouched.len().max(self.kept.len()) <= MOST_NAMED, "At most 5,000 pages or rows can be named."),
        ];
        match bounds.into_iter().find(|(holds, _)| !holds) {
            Some((_, why)) => Err(ApiError::Unusable(why.to_owned())),
            None => Ok(self),
        }
    }

    /// The same for the planner.
    pub const fn limits(&self) -> RescueLimits {
        RescueLimits { depth: self.depth, links_in: self.links_in, per_page: self.per_page, pairs: self.both_ways }
    }
}
