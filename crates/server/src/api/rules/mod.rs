//! Auto-linking rules: making and changing them, their places, and what holds for all of them.

mod anchors;
pub mod change;
mod counts;
pub mod exceptions;
pub mod export;
mod leads;
pub mod limits;
pub mod list;
pub mod make;
mod place_rows;
pub mod places;
pub mod propose;
pub mod read_table;
mod rule_wish;
pub mod switch;
mod taxonomy;
mod terms_wish;
mod wished_rule;

use strelm_core::rules::RuleId;

/// More rules are not made or changed at once.
const MOST_AT_ONCE: usize = 5000;

/// A rule that is not kept yet is younger than all that are.
const NOT_KEPT: RuleId = RuleId(u32::MAX);
