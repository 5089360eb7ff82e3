//! The auto-linking rules of a site in memory: which places they have on which pages, and what becomes of these.

mod around;
pub(crate) mod at_once;
pub(crate) mod counts;
mod follow;
mod look;
mod passing;
mod place;
pub(crate) mod site_rules;
mod subject;
mod sweep;
mod tally;

pub use counts::{RuleCounts, RuleTally, Tallied};
pub use follow::{spot_of, still_links};
pub use look::{RulePageText, look_at_rules};
pub use passing::{PassingLinks, PassingPage, ReadOfPage};
pub use place::{PlaceState, RulePlace, RulePlaces};
pub use site_rules::SiteRules;
pub use sweep::{RuleSweep, RuleSweepNews};
