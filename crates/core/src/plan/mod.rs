//! Plans: many links that together reach an aim, with as few edits as can be.

pub mod rescue;
