//! Places on pages at which the fragments of links point.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::hash::{DefaultHasher, Hash, Hasher};

use percent_encoding::percent_decode_str;

use super::address::Address;
use crate::ids::PageId;

/// The places of all pages, and the links that name places. About nine bytes for a place.
#[derive(Debug, Default)]
pub struct Fragments {
    places: HashMap<PageId, HashSet<u64>>,
    links: BTreeMap<PageId, Vec<(Address, String)>>,
}

impl Fragments {
    /// Sets the places that a page has, and where its links with fragments lead.
    pub fn put<'i>(&mut self, page: PageId, ids: impl IntoIterator<Item = &'i str>, links: Vec<(Address, String)>) {
        self.places.insert(page, ids.into_iter().map(hash).collect());
        match links.is_empty() {
            true => self.links.remove(&page),
            false => self.links.insert(page, links),
        };
    }

    /// Forgets a page. O(1).
    pub fn remove(&mut self, page: PageId) {
        self.places.remove(&page);
        self.links.remove(&page);
    }

    /// Whether there is a place on a page at which a fragment points. Of pages that nobody looked at, as of files, all are
    /// taken to be there; `#top` and the empty fragment are on every page, as the HTML standard says. O(length).
    pub fn has(&self, page: PageId, fragment: &str) -> bool {
        let Some(places) = self.places.get(&page) else { return true };
        if fragment.is_empty() || fragment.eq_ignore_ascii_case("top") || places.contains(&hash(fragment)) {
            return true;
        }
        // The fragment of a parsed address is percent-encoded; an id in the page is not.
        places.contains(&hash(&percent_decode_str(fragment).decode_utf8_lossy()))
    }

    /// Links that name places, by the page that they stand on.
    pub fn links(&self) -> impl Iterator<Item = (PageId, &[(Address, String)])> {
        self.links.iter().map(|(page, links)| (*page, links.as_slice()))
    }

    /// Bytes on the heap, but for those of the links. O(pages).
    pub fn weight(&self) -> usize {
        self.places.values().map(|places| places.capacity() * size_of::<(u64, u8)>()).sum()
    }
}

fn hash(text: &str) -> u64 {
    let mut hasher = DefaultHasher::new();
    text.hash(&mut hasher);
    hasher.finish()
}
