//! What the links of the site say.

pub mod list;
pub mod places;
