//! Decisions as the database has them.

use strelm_core::site::ChangeId;
use strelm_core::tray::{Decision, DecisionKind, PassedPlace};

use crate::{StoreError, page_id};

pub(super) struct DecisionRow {
    pub id: i64,
    pub kind: String,
    pub changes: Vec<i64>,
    pub source_number: Option<i32>,
    pub target_number: Option<i32>,
    pub anchor: String,
    pub before_anchor: String,
    pub after_anchor: String,
    pub has_place: Option<bool>,
}

impl DecisionRow {
    /// The decision that the row keeps, with its number.
    pub fn into_decision(self) -> Result<(i64, Decision), StoreError> {
        let kind = DecisionKind::ALL.into_iter().find(|kind| kind.as_str() == self.kind);
        let decision = Decision {
            kind: kind.ok_or(StoreError::Unknown { what: "a kind of decision", value: self.kind })?,
            changes: self.changes.into_iter().map(ChangeId).collect(),
            source: self.source_number.map(page_id),
            target: self.target_number.map(page_id),
            anchor: self.anchor,
            place: self
                .has_place
                .unwrap_or_default()
                .then_some(PassedPlace { before: self.before_anchor, after: self.after_anchor }),
            refused: Vec::new(),
        };
        Ok((self.id, decision))
    }
}
