//! Openings: places in a page's text where a link to another page would fit, and how well.
//!
//! Every [`Mention`](crate::phrases::Mention) of a page becomes a row of [`features`]; the [`Ensemble`] of trained trees makes
//! a [`Fit`] of it, part by part; [`Judge`] asks in both directions.

mod corpus;
mod ensemble;
pub mod features;
mod find;
pub mod fit;
mod reasons;
mod theme;

pub use corpus::{Corpus, CorpusPage};
pub use ensemble::{Ensemble, EnsembleError, Range, Tree};
pub use features::{FEATURES, Features, Judged, judge};
pub use find::{Judge, Limits, Opening, Wants};
pub use fit::{Fit, Part, PartScore, Wish};
pub use reasons::Reason;
pub use theme::Theme;
