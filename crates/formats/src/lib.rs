//! Open formats: reading and writing. Knows neither sites nor rules.

pub mod archive;
pub mod list;
pub mod sitemap;
pub mod table;
