mod follow_rules;
pub mod make;
mod mend;
mod pass;
pub mod repair;
mod take;
pub mod turn;

pub use take::TargetWish;

use serde::Serialize;
use strelm_core::tray::{Decision, DecisionKind as Kind, LeftOut};
use utoipa::ToSchema;

use super::pages::PageRef;
use super::sites::show::TrayFigures;
use strelm_live::Model;

/// A decision that was made, undone or done again.
#[derive(Debug, Serialize, ToSchema)]
pub struct Decided {
    pub kind: DecisionKind,
    /// The words, or how many links.
    pub words: String,
    /// The pages that it was about, where it was about two.
    pub source: Option<PageRef>,
    pub target: Option<PageRef>,
    /// Of many, those that could not be taken.
    pub refused: Vec<Refused>,
    pub tray: TrayFigures,
    /// The entry of the journal up to which the site is known here: whoever asks after this answer is told of all until
    /// then.
    pub seq: i64,
}

/// A link that was not taken, and why.
#[derive(Debug, Serialize, ToSchema)]
pub struct Refused {
    pub source: u32,
    /// The page to which it would have led; nothing where it is no page.
    pub target: Option<u32>,
    pub words: String,
    pub why: String,
}

/// What kind of decision it was.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DecisionKind {
    Take,
    Drop,
    Pass,
    BringBack,
    Repair,
}

impl Refused {
    fn of(LeftOut { source, target, words, why }: LeftOut) -> Self {
        Self { source, target, words, why }
    }
}

impl Decided {
    fn of(model: &Model, decision: Decision) -> Self {
        let page = |page: Option<strelm_core::site::PageId>| page.and_then(|page| PageRef::of(model, page.0).ok());
        Self {
            kind: match decision.kind {
                Kind::Take => DecisionKind::Take,
                Kind::Drop => DecisionKind::Drop,
                Kind::Pass => DecisionKind::Pass,
                Kind::BringBack => DecisionKind::BringBack,
                Kind::Repair => DecisionKind::Repair,
            },
            source: page(decision.source),
            target: page(decision.target),
            words: decision.anchor,
            refused: decision.refused.into_iter().map(Refused::of).collect(),
            tray: super::sites::show::tray_figures(model),
            seq: model.seq.0,
        }
    }
}
