//! Models of sites, held in memory and kept up to date by the journal. PostgreSQL is the truth; a model can be dropped
//! and loaded anew at any time, and several processes agree because they follow the same journal.

mod broken;
mod faulty;
mod find;
mod follow;
mod gainful;
mod graph_deltas;
mod habits;
mod judging;
mod list;
mod loading;
mod model;
mod openings;
mod passes;
mod planned;
mod registry;
mod text_deltas;
mod texts;
mod told;
mod wanted;

pub use broken::{BrokenLink, Fault};
pub use faulty::Faulty;
pub use find::Place;
pub use habits::{known_habits, learn_habits};
pub use list::{Column, Only, Range, Totals, Wish};
pub use loading::Readiness;
pub use model::{Known, Model};
pub use registry::{LiveError, LiveSite, LiveSites};
pub use wanted::Wanted;
