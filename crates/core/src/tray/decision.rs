//! What editors decide, how it is undone and done again.

use serde::{Deserialize, Serialize};

use super::entry::TrayState;
use super::passed::{Passed, PassedPlace};
use super::planned_link::PlannedLink;
use crate::ids::{ChangeId, PageId};

/// What kind of decision an editor made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DecisionKind {
    Take,
    Drop,
    Pass,
    BringBack,
    /// Changes links that are on a page.
    Repair,
}

impl DecisionKind {
    /// All kinds.
    pub const ALL: [Self; 5] = [Self::Take, Self::Drop, Self::Pass, Self::BringBack, Self::Repair];

    /// Its name in the database.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Take => "take",
            Self::Drop => "drop",
            Self::Pass => "pass",
            Self::BringBack => "bring back",
            Self::Repair => "repair",
        }
    }
}

/// Of many links one that could not be taken.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LeftOut {
    pub source: u32,
    /// The page to which it would have led.
    pub target: Option<u32>,
    pub words: String,
    pub why: String,
}

/// A decision as it was made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Decision {
    pub kind: DecisionKind,
    pub changes: Vec<ChangeId>,
    /// The pages that it was about, where it was about two.
    pub source: Option<PageId>,
    pub target: Option<PageId>,
    /// The words, or how many links.
    pub anchor: String,
    /// The one place that was passed or brought back, when it was one.
    pub place: Option<PassedPlace>,
    /// Of many links, those that could not be taken; known when the decision is made, not when it is undone.
    pub refused: Vec<LeftOut>,
}

impl Decision {
    /// Links that were taken, mended or dropped; what was dropped is told by its number alone.
    pub fn of_links(kind: DecisionKind, changes: Vec<ChangeId>, links: &[PlannedLink]) -> Self {
        let is_one_page = || links.windows(2).all(|pair| pair[0].source == pair[1].source);
        let told = match links {
            [only] => Some(only),
            [first, ..] if kind == DecisionKind::Repair && is_one_page() => Some(first),
            _ => None,
        };
        let (source, target, anchor) = match told {
            Some(link) => (Some(link.source), link.target_page(), link.said.anchor.clone()),
            None if kind == DecisionKind::Repair && links.is_empty() => (None, None, String::new()),
            None => (None, None, format!("{} links", links.len())),
        };
        Self { kind, changes, source, target, anchor, place: None, refused: Vec::new() }
    }

    /// Openings that were passed, or brought back.
    pub fn of_passed(kind: DecisionKind, passed: &Passed) -> Self {
        Self {
            kind,
            changes: Vec::new(),
            source: passed.source,
            target: Some(passed.target),
            anchor: passed.anchor.clone(),
            place: passed.place.clone(),
            refused: Vec::new(),
        }
    }

    /// What was passed or brought back.
    pub fn passed(&self) -> Option<Passed> {
        let target = self.target?;
        Some(Passed { source: self.source, target, anchor: self.anchor.clone(), place: self.place.clone() })
    }
}

/// In which direction a decision is turned.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Turning {
    Back,
    Again,
}

/// What turning a decision does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TurnEffect {
    /// Those of its links that are in the one state come to the other. What left it since stays where it is: what is out is
    /// taken back with its release.
    Moved { from: TrayState, to: TrayState },
    /// What it is about is passed, or is not any more.
    Passed(bool),
}

/// Undoing is the reverse of doing again, and doing again does what was done first.
pub const fn turned(kind: DecisionKind, way: Turning) -> TurnEffect {
    let (tray, dropped) = (TrayState::Tray, TrayState::Dropped);
    match (kind, way) {
        (DecisionKind::Take | DecisionKind::Repair, Turning::Back) | (DecisionKind::Drop, Turning::Again) => {
            TurnEffect::Moved { from: tray, to: dropped }
        }
        (DecisionKind::Take | DecisionKind::Repair, Turning::Again) | (DecisionKind::Drop, Turning::Back) => {
            TurnEffect::Moved { from: dropped, to: tray }
        }
        (DecisionKind::Pass, Turning::Again) | (DecisionKind::BringBack, Turning::Back) => TurnEffect::Passed(true),
        (DecisionKind::Pass, Turning::Back) | (DecisionKind::BringBack, Turning::Again) => TurnEffect::Passed(false),
    }
}
