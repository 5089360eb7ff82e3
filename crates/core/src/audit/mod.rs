//! What is wrong with the links that are there.

mod broken;
mod likeliest;

pub use broken::{BrokenFragment, BrokenLink, PageLinks, broken};
pub use likeliest::Likeliest;
