pub mod make;
pub mod on_picture;
mod pass;
mod repair;
mod take;
pub mod turn;

use serde::Serialize;
use strelm_store::decision::{Decision, Kind};
use utoipa::ToSchema;

use super::pages::PageRef;
use super::sites::show::TrayFigures;
use crate::live::Model;

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
    pub refused: Vec<take::Refused>,
    pub tray: TrayFigures,
}

#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DecisionKind {
    Take,
    Drop,
    Pass,
    BringBack,
    Repair,
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
            refused: Vec::new(),
            tray: super::sites::show::tray_figures(model),
        }
    }
}
