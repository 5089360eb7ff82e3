//! Models of sites, held in memory and kept up to date by the journal. PostgreSQL is the truth; a model can be dropped
//! and loaded anew at any time, and several processes agree because they follow the same journal.

mod columns;
mod find;
mod follow;
mod graph_deltas;
mod habits;
mod judging;
mod kept;
mod list;
mod loading;
mod model;
mod openings;
mod overview;
mod registry;
mod text_deltas;
mod texts;
mod told;

pub use columns::{Column, Range};
pub use find::FoundIn;
pub use habits::{known_habits, learn_habits};
pub use list::{Gainful, Only, PageQuery};
pub use loading::Readiness;
pub use model::{Known, Model};
pub use overview::Totals;
pub use registry::{LiveError, LiveSite, LiveSites};
