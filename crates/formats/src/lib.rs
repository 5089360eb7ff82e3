//! Open formats: reading and writing. Knows neither sites nor rules.

pub mod archive;
pub mod diff;
pub mod feed;
pub mod graph;
pub mod list;
pub mod page_lines;
pub mod sitemap;
pub mod table;
pub mod warc;
