//! What a plan leaves, and what it would change.

use strelm_core::plan::rescue::{Left, Why, left, next_step};
use strelm_core::reach::{Equity, Ways};
use strelm_core::site::PageId;

use super::planner::{Best, Planner};
use super::rows::{EquityGain, LeftPage, RescueEffect, Step, reason};
use crate::api::ApiError;
use crate::api::pages::PageRef;
use crate::api::reach::chart::bands;
use strelm_live::Model;

/// Pages that are left and named, and of those that follow one of them.
const MOST_LEFT: usize = 300;
const MOST_FOLLOWERS: usize = 30;

/// Pages that are named among those that gain equity.
const MOST_GAINS: usize = 12;

/// Who is left, in the graph with the plan.
pub struct Outcome {
    left: Vec<Left>,
    ways: Ways,
}

impl Outcome {
    /// O(pages + roads).
    pub fn of(planner: &Planner, best: &Best) -> Self {
        let after = planner.snapshot.with(best.links());
        let ways = Ways::of(&after);
        Self { left: left(&best.plan, &after, &ways), ways }
    }

    /// The first of them, each with its next best step. O(words of the pages that are like each).
    pub fn left(&self, planner: &Planner) -> Result<Vec<LeftPage>, ApiError> {
        // One after the other: others get their turn with the model.
        let page = |left: &Left| planner.live.look(|model| self.left_page(planner, model, left)).transpose();
        self.left.iter().take(MOST_LEFT).filter_map(page).collect()
    }

    fn left_page(&self, planner: &Planner, model: &Model, left: &Left) -> Result<Option<LeftPage>, ApiError> {
        let snapshot = &planner.snapshot;
        let Some(page) = snapshot.page(left.page).filter(|page| model.site.page(*page).is_some()) else {
            return Ok(None);
        };
        let is_near = |other: PageId| {
            let depth = snapshot.number_of(other).and_then(|number| self.ways.depth(number));
            depth.is_some_and(|depth| depth < planner.wish.depth)
        };
        let behind = u32::try_from(left.followers.len()).unwrap_or(u32::MAX);
        let (step, with) = match left.why {
            Why::Crowded => (Step::Loosen, None),
            _ => Step::of(next_step(model.judge(), &model.linkable(), page, behind, is_near)),
        };
        let follower = |number: &u32| PageRef::of(model, snapshot.page(*number)?.0).ok();
        Ok(Some(LeftPage {
            page: PageRef::of(model, page.0)?,
            why: reason(left.why, &planner.wish),
            step,
            with: with.map(|with| PageRef::of(model, with.0)).transpose()?,
            follower_count: left.followers.len(),
            followers: left.followers.iter().take(MOST_FOLLOWERS).filter_map(follower).collect(),
        }))
    }

    /// What the plan changes on the graph as it is. O((pages + roads) · rounds of equity).
    pub fn effect(planner: &Planner, best: &Best) -> RescueEffect {
        let before = &planner.whole;
        let after = before.with(best.links());
        let (ways_before, ways) = (Ways::of(before), Ways::of(&after));
        let moved: Vec<u32> = before.numbers().filter(|page| ways.depth(*page) != ways_before.depth(*page)).collect();
        let depths = |ways: &Ways| before.numbers().map(|page| ways.depth(page)).collect::<Vec<_>>();
        let rules = planner.live.look(Model::equity_rules);
        let equity_before = Equity::of(before, &before.roads().reversed(), rules);
        let equity = Equity::of(&after, &after.roads().reversed(), rules);
        let beside_average = |equity: &Equity, page: u32| equity.share(page) * before.len() as f64;
        let gain = |page: &u32| beside_average(&equity, *page) - beside_average(&equity_before, *page);
        let mut gains: Vec<(f64, u32)> = planner.wanted.iter().map(|page| (gain(page), *page)).collect();
        gains.retain(|(gain, _)| *gain > 0.0);
        gains.sort_by(|one, other| other.0.total_cmp(&one.0).then(one.1.cmp(&other.1)));
        let gains = planner.live.look(|model| {
            let row = |(_, page): &(f64, u32)| {
                Some(EquityGain {
                    page: PageRef::of(model, before.page(*page)?.0).ok()?,
                    before: beside_average(&equity_before, *page),
                    after: beside_average(&equity, *page),
                })
            };
            gains.iter().take(MOST_GAINS).filter_map(row).collect()
        });
        RescueEffect {
            bands: bands(&depths(&ways), &depths(&ways_before)),
            numbers: moved.iter().filter_map(|page| before.page(*page)).map(|page| page.0).collect(),
            depths: moved.iter().map(|page| ways.depth(*page)).collect(),
            gains,
        }
    }
}
