//! Openings: places in a page's text where a link to another page would fit, and how well.
//!
//! What finds them now is [`mentions`](crate::phrases::Mention) of titles and headings, judged by a first, plain
//! [`fit`]. A trained engine will take the same two questions ([`inbound`], [`outbound`]) and give the same answer.

mod find;
pub mod fit;
mod reasons;

pub use find::{Limits, Opening, inbound, outbound};
pub use fit::{Fit, Part, PartScore};
pub use reasons::Reason;
