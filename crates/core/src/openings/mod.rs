//! Openings: places in a page's text where a link to another page would fit, and how well.
//!
//! Every [`Mention`](crate::phrases::Mention) of a page becomes a row of [`features`]; the [`Ensemble`] of trained trees makes
//! a [`Fit`] of it, part by part; [`Judge`] asks in both directions.

mod alike;
mod answers;
mod board;
mod bridge;
mod by_words;
mod candidate;
mod choice;
mod corpus;
mod ensemble;
pub mod features;
mod find;
mod fit;
mod index;
mod judge;
pub mod kept;
pub mod learning;
mod opening;
mod part;
mod policy;
mod portrait;
mod reasons;
mod room;
mod sitting;
mod taste;
mod tf_idf;

pub use board::{Board, Tally};
pub use bridge::Bridge;
pub use by_words::Proposal;
pub use candidate::{Candidate, Weighed};
pub use corpus::{Corpus, CorpusPage};
pub use ensemble::{Ensemble, EnsembleError, For, Habits, PartRange, Promise, Tree};
pub use features::{FEATURES, Features, Judged, judge};
pub use fit::{Fit, LIKELY, PartScore, percent};
pub use index::OpeningIndex;
pub use judge::Judge;
pub use opening::Opening;
pub use part::Part;
pub use policy::{AllWanted, Limits, Manners, Unwanted};
pub use reasons::Reason;
pub use room::Room;
pub use sitting::{BothWays, Sitting};
pub use taste::{Lesson, Taste};
pub use tf_idf::TfIdf;
