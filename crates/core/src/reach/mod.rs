//! Which pages a reader can get to, in how many clicks, and what depends on it.
//!
//! [`Depths`] follow each link that comes and goes; all else is worked out of a [`Snapshot`] of the whole site.

mod components;
mod depth;
mod dominators;
mod equity;
mod flow;
mod islands;
mod roads;
mod snapshot;
mod soundings;
mod threads;
mod ways;

pub use components::strong_components;
pub use depth::{Depths, LinkGraph};
pub use dominators::Dominators;
pub use equity::{Equity, EquityRules};
pub use flow::{Flow, FlowCell};
pub use islands::{Island, islands};
pub use roads::{Carrier, Road, Roads, Strength};
pub use snapshot::Snapshot;
pub use soundings::Soundings;
pub use threads::{Over, Thread, cut, threads};
pub use ways::Ways;
