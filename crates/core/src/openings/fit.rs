//! The fit of an opening: how likely an editor is to keep it, made of five parts that only add up.

use super::ensemble::{Ensemble, Range};
use super::features::Features;
use super::reasons::Reason;
use crate::site::Figures;

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

/// What an editor wants beyond what authors did, in log-odds. An assumption, until the takes and passes of a site teach
/// better.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wish {
    /// Authors link a few of the places that deserve it; who is asked keeps more.
    keeps: f32,
    /// Authors link to what is well known. An editor wants links to what lacks them.
    need: f32,
}

impl Wish {
    /// None: how likely an author is to have made the link.
    pub const NONE: Self = Self { keeps: 0.0, need: 0.0 };

    const KEEPS: f32 = 1.6;
    const MOST_NEED: f32 = 1.6;

    /// What an editor wishes for a page with these figures.
    pub fn of_editor(target: &Figures) -> Self {
        let need = match target {
            Figures { links_in: 0, .. } | Figures { depth: None, .. } => Self::MOST_NEED,
            Figures { links_in: 1, .. } | Figures { content_links_in: 0, .. } => 0.8,
            Figures { content_links_in: 1, .. } => 0.4,
            _ => 0.0,
        };
        Self { keeps: Self::KEEPS, need }
    }

    pub fn log_odds(self) -> f32 {
        self.keeps + self.need
    }

    /// What of it comes from the target's lack of links.
    pub fn need(self) -> f32 {
        self.need
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
    pub fn of(ensemble: &Ensemble, features: &Features, wish: Wish) -> Self {
        let strength = |adds: f32, range: Range| {
            f64::from((adds - range.low) / (range.high - range.low).max(1e-3)).clamp(0.0, 1.0)
        };
        let mut adds = ensemble.parts(features);
        let mut ranges = ensemble.ranges;
        let need = Part::Need as usize;
        adds[need] += wish.need;
        ranges[need].high += Wish::MOST_NEED * f32::from(u8::from(wish != Wish::NONE));
        let parts = Part::ALL.into_iter().zip(adds).zip(ranges).map(|((part, adds), range)| PartScore {
            part,
            adds,
            strength: strength(adds, range),
            reasons: Vec::new(),
        });
        Self { bias: ensemble.bias + wish.keeps, parts: parts.collect() }
    }

    pub fn log_odds(&self) -> f32 {
        self.bias + self.parts.iter().map(|part| part.adds).sum::<f32>()
    }

    /// 0 to 100: the chance that an editor keeps it, as far as what authors link tells. Not measured with editors yet.
    pub fn total(&self) -> f64 {
        100.0 / (1.0 + f64::from(-self.log_odds()).exp())
    }
}
