//! What is wrong with the links that are there.

mod broken;

pub use broken::{BrokenFragment, BrokenLink, PageLinks, broken};
