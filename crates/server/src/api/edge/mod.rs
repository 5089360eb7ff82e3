//! Links that come to pages as they pass: what is set for the edges of a site, and a page sent through as they would pass it.

mod footer;
pub mod render;
pub mod set;
pub mod show;
