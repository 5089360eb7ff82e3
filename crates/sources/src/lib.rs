//! Where a site comes from and where a release goes.

pub mod captured;
pub mod client;
pub mod crawl;
mod crawled_page;
pub mod editing;
pub mod fetch;
pub mod folder;
mod folder_edit;
mod folder_files;
mod folder_glance;
mod folder_links;
pub mod folder_reading;
mod folder_unread;
pub mod front_matter;
pub mod guard;
pub mod micropub;
pub mod pace;
mod page_source;
