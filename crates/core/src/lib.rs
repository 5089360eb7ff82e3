//! The job's rules and computation.
//!
//! No input or output, no clock, no database: everything here is a function of what it is given. A page's way through
//! the house is one street, and each module knows only those before it:
//! bytes → [`document`] → [`site`] → [`phrases`] / [`reach`] → [`openings`] / [`rules`]; [`document::edit`] leads back to
//! bytes.

pub mod anchors;
pub mod audit;
pub mod destinations;
pub mod document;
pub mod ids;
pub mod in_order;
pub mod language;
pub mod limits;
mod logarithms;
pub mod mentions;
pub mod openings;
pub mod passing;
pub mod phrases;
pub mod plan;
pub mod reach;
pub mod rules;
pub mod site;
pub mod tray;
mod weight;
