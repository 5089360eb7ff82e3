//! Models of sites, held in memory and kept up to date by the journal. PostgreSQL is the truth; a model can be dropped
//! and loaded anew at any time, and several processes agree because they follow the same journal.

mod anchors;
mod answers;
mod columns;
mod error;
mod find;
mod follow;
mod following;
mod graph_deltas;
mod habits;
mod judging;
mod kept;
mod list;
mod live_site;
mod loading;
pub mod mentions;
mod model;
mod openings;
mod overview;
mod progress;
mod query;
mod reach_changes;
mod registry;
pub mod rules;
mod said;
mod sounding;
mod text_deltas;
mod texts;
mod texts_due;
mod told;

pub use anchors::{AnchorFaultCount, AnchorQuery, AnchorSort};
pub use answers::{Gainful, ReachEdits, Sounded, Totals, WholeAnswer};
pub use columns::{Column, ColumnRange};
pub use error::LiveError;
pub use find::FoundIn;
pub use habits::learn_habits;
pub use judging::known_habits;
pub use live_site::{LiveSite, Purpose};
pub use loading::Readiness;
pub use model::{Model, ModelKnown, PassingMark};
pub use query::{Only, PageQuery};
pub use registry::LiveSites;
