//! Where a site comes from and where a release goes.

pub mod client;
pub mod crawl;
pub mod fetch;
pub mod folder;
pub mod micropub;
