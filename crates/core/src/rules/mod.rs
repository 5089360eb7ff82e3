//! Auto-linking rules: whenever these words stand in a page, they lead there, within limits.
//!
//! Rules are put together once ([`RuleSet`]); a [`Reader`] finds all their phrases in one pass over a page's words, and
//! [`apply`] says which of these places become links, and of every other which limit or which rule is in its way. What comes
//! out hangs on nothing but the page, the rules and the limits: it is the same in a run over the site and on the fly.

mod apply;
mod edit;
mod found;
mod handling;
mod held;
mod mention;
mod old_link;
mod order;
mod pace;
mod page;
mod phrase;
mod readers;
mod rule;
mod rule_set;
mod scope;
mod selector;
mod spot;
mod terms;
mod vocabulary;

pub use apply::{Applied, RuleLink, apply};
pub use found::Reader;
pub use handling::Handling;
pub use held::Held;
pub use mention::Mention;
pub use pace::{Pace, RuleLimits, Share};
pub use page::{Around, RulePage};
pub use phrase::{Matching, Phrase, PhraseError};
pub use readers::Readers;
pub use rule::{Rule, Tracking};
pub use rule_set::RuleSet;
pub use scope::{BlockKinds, PathPattern, Scope};
pub use selector::{NoSelector, Selector};
pub use spot::Spot;
pub use terms::{Leads, OfTerms, TermArchive};

pub use crate::ids::RuleId;
