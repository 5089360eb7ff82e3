//! The edge: a proxy in front of a site that puts links into its pages as they pass.
//!
//! Whatever is asked for is asked of the site (`upstream`) and passes as it comes, byte by byte, but for pages of which
//! something is known beforehand ([`plans`]): their sentences are looked for as they go by ([`body`]) and get their links. A page
//! that is not as it was known is learnt as it passes ([`learner`]), for the next visit. Whatever goes wrong, the page passes as
//! it came.

mod ask;
mod body;
mod coding;
mod conditions;
mod forward;
mod learner;
mod plan;
mod plans;
mod serve;
mod sink;
mod watch;

pub use serve::{Edge, EdgeError, EdgeOptions};
