//! The fit of an opening: how likely an editor is to keep it, made of five parts that only add up.

use super::candidate::Weighed;
use super::ensemble::{Ensemble, PartRange};
use super::part::Part;
use super::taste::Taste;

/// One part of a fit.
#[derive(Debug, Clone, PartialEq)]
pub struct PartScore {
    pub part: Part,
    /// What it adds to the log-odds before this site's taste.
    pub untaught: f32,
    /// What it adds with it.
    pub adds: f32,
    /// 0 to 1: how much that is among all that is found on sites.
    pub strength: f64,
}

/// The parts in the order of [`Part::ALL`].
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    log_odds: f32,
    pub parts: Vec<PartScore>,
}

impl Fit {
    /// As the site's taste has it.
    pub fn of(ensemble: &Ensemble, weighed: &Weighed, taste: Taste) -> Self {
        let strength = |adds: f32, range: PartRange| {
            f64::from((adds - range.low) / (range.high - range.low).max(1e-3)).clamp(0.0, 1.0)
        };
        let mut ranges = ensemble.ranges();
        ranges[Part::Need as usize] = taste.range_of_need(ranges[Part::Need as usize]);
        let parts = Part::ALL.into_iter().zip(weighed.untaught).zip(weighed.adds).zip(ranges).map(
            |(((part, untaught), adds), range)| PartScore { part, untaught, adds, strength: strength(untaught, range) },
        );
        Self { log_odds: weighed.log_odds, parts: parts.collect() }
    }

    /// What the parts added before this site's taste: what is learnt from.
    pub fn lesson(&self) -> [f32; 5] {
        std::array::from_fn(|part| self.parts.get(part).map_or(0.0, |score| score.untaught))
    }

    /// The sum of all parts and the bias.
    pub fn log_odds(&self) -> f32 {
        self.log_odds
    }

    /// 0 to 100: the chance that an editor keeps it, as far as what authors link tells. Not measured with editors yet.
    pub fn total(&self) -> f64 {
        percent(self.log_odds())
    }
}

/// Of openings with a smaller fit five in six would be passed: they are not counted, and shown to those who ask.
pub const LIKELY: f64 = 20.0;

/// Log-odds as a fit, 0 to 100.
pub fn percent(log_odds: f32) -> f64 {
    100.0 / (1.0 + f64::from(-log_odds).exp())
}
