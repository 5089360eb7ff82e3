//! A page as it was read, from a live site or from a folder.

use strelm_core::document::Document;
use strelm_core::site::{Address, Destination};

use crate::front_matter::FrontMatter;
use crate::page_source::PageSource;
use strelm_core::site::Validators;

/// A page as it was read: its source, and what the answer said about it.
#[derive(Debug)]
pub struct CrawledPage {
    pub address: Address,
    pub document: Document,
    pub validators: Validators,
    /// Where the page and its source are one and the same.
    pub source: Option<PageSource>,
    /// What a file says of itself ahead of its text.
    pub front: FrontMatter,
    /// Links of the document as they lead on, where that is not told by the address alone.
    pub destinations: Option<Vec<Destination>>,
}

impl CrawledPage {
    /// Pages and files to which it leads, as far as that was told with it.
    pub fn linked(&self) -> impl Iterator<Item = &Address> {
        self.destinations.iter().flatten().filter_map(|destination| match destination {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        })
    }
}
