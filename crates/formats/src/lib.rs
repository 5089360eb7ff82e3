//! Open formats: reading and writing. Knows neither sites nor rules.

pub mod sitemap;
pub mod table;
