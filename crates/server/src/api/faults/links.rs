//! Links to one faulty address, as they are written on the pages that have them.

use std::collections::HashMap;

use strelm_core::site::{Address, PageId};
use strelm_core::tray::StoredHrefs;
use strelm_store::page::StoredLink;

/// Pages that are shown and mended at once; the next are there when these are mended.
pub const MOST_PAGES: usize = 200;

/// What is written for links to one place, by page.
pub type Stored = HashMap<PageId, StoredHrefs>;

/// Those links that lead to a place. What is wrong with an address is wrong whatever place on the page a link names.
pub fn stored_links(links: Vec<StoredLink>, to: &Address, fragment: Option<&str>) -> Stored {
    let mut stored = Stored::new();
    let is_it = |link: &StoredLink| link.to == *to && (fragment.is_none() || link.fragment.as_deref() == fragment);
    for link in links.into_iter().filter(is_it) {
        stored.entry(link.page).or_default().insert(link.href, link.fragment);
    }
    stored
}
