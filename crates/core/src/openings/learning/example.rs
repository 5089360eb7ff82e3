//! What is learnt from.

use super::halved::Halved;

/// What is learnt from: a place with its features, and whether it is a link.
#[derive(Debug, Clone)]
pub struct Example {
    pub features: Halved,
    pub is_link: bool,
    /// Whether this or another place for the same two pages is a link.
    pub is_pair: bool,
    /// How much it counts by itself.
    pub weight: f32,
    /// How much one link of its site counts.
    pub counts: f32,
    /// How many of its like it stands for, itself among them.
    pub stands_for: f32,
    pub list: Listed,
}

/// The lists in which it is.
#[derive(Debug, Clone, Copy)]
pub struct Listed {
    /// Of a site with some of its links hidden.
    pub variant: u32,
    pub source: u32,
    pub target: u32,
}
