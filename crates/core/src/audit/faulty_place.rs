//! Links with a fault, gathered by what they lead to: what is wrong with an address is mended in all its places at once.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use super::fault::{Fault, FaultyLink};
use crate::ids::PageId;
use crate::site::{Address, Site};

/// All links of the site that lead to one faulty place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FaultyPlace {
    pub to: Address,
    pub fragment: Option<String>,
    pub fault: Fault,
    /// The page that they were most likely meant for.
    pub likeliest: Option<PageId>,
    /// Pages in whose content they stand, those first that most readers meet.
    pub pages: Vec<PageId>,
    /// Pages that have them around their content: they share a template.
    pub around: Vec<PageId>,
    /// How many of them stand in content, and how many around it.
    pub content: u32,
    pub boilerplate: u32,
}

/// Gathers links by what they lead to, those first whose mending gains most: links to pages before links to places,
/// content before templates, and what stands on many pages. O(links × log links).
pub fn gathered<'l>(site: &Site, links: impl Iterator<Item = &'l FaultyLink>) -> Vec<FaultyPlace> {
    let mut all: BTreeMap<(&Address, Option<&str>), FaultyPlace> = BTreeMap::new();
    for link in links {
        let place = all.entry((&link.to, link.fragment.as_deref())).or_insert_with(|| FaultyPlace {
            to: link.to.clone(),
            fragment: link.fragment.clone(),
            fault: link.fault,
            likeliest: None,
            pages: Vec::new(),
            around: Vec::new(),
            content: 0,
            boilerplate: 0,
        });
        place.likeliest = place.likeliest.or(link.likeliest);
        place.content += link.content;
        place.boilerplate += link.boilerplate;
        let pages = if link.content > 0 { &mut place.pages } else { &mut place.around };
        pages.push(link.page);
    }
    let depth = |page: &PageId| site.depth(*page).unwrap_or(u32::MAX);
    let mut all: Vec<_> = all.into_values().collect();
    for place in &mut all {
        place.pages.sort_by_cached_key(|page| (depth(page), *page));
        place.around.sort_by_cached_key(|page| (depth(page), *page));
    }
    all.sort_by_cached_key(|place| {
        let nearest = place.pages.first().or(place.around.first()).map(depth);
        (place.fragment.is_some(), place.content == 0, Reverse(place.content), Reverse(place.boilerplate), nearest)
    });
    all
}
