//! The fit of an opening: how likely an editor is to keep it, made of five parts that only add up.

use super::ensemble::{Ensemble, Range};
use super::features::Features;
use super::reasons::Reason;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Part {
    Topic,
    Wording,
    Place,
    Need,
    Variety,
}

impl Part {
    pub const ALL: [Self; 5] = [Self::Topic, Self::Wording, Self::Place, Self::Need, Self::Variety];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Topic => "topic",
            Self::Wording => "wording",
            Self::Place => "place",
            Self::Need => "need",
            Self::Variety => "variety",
        }
    }
}

/// One part of a fit with what led to it.
#[derive(Debug, Clone, PartialEq)]
pub struct PartScore {
    pub part: Part,
    /// What it adds to the log-odds.
    pub adds: f32,
    /// 0 to 1: how much that is among all that is found on sites.
    pub strength: f64,
    pub reasons: Vec<Reason>,
}

/// The parts in the order of [`Part::ALL`].
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    bias: f32,
    pub parts: Vec<PartScore>,
}

impl Fit {
    /// Without reasons, which are looked for when somebody asks.
    pub fn of(ensemble: &Ensemble, features: &Features) -> Self {
        let strength = |adds: f32, range: Range| {
            f64::from((adds - range.low) / (range.high - range.low).max(1e-3)).clamp(0.0, 1.0)
        };
        let adds = ensemble.parts(features);
        let parts = Part::ALL.into_iter().zip(adds).zip(ensemble.ranges).map(|((part, adds), range)| PartScore {
            part,
            adds,
            strength: strength(adds, range),
            reasons: Vec::new(),
        });
        Self { bias: ensemble.bias, parts: parts.collect() }
    }

    pub fn log_odds(&self) -> f32 {
        self.bias + self.parts.iter().map(|part| part.adds).sum::<f32>()
    }

    /// 0 to 100: of openings with a fit of 70, seventy in a hundred are kept.
    pub fn total(&self) -> f64 {
        100.0 / (1.0 + f64::from(-self.log_odds()).exp())
    }
}
