//! Links to pages that do not exist, and to places on pages that do not exist.

use std::collections::{HashMap, HashSet};

use percent_encoding::percent_decode_str;

use crate::site::{Address, Destination};

/// A page with everything that is needed to judge the links on it.
#[derive(Debug, Clone)]
pub struct PageLinks {
    pub address: Address,
    /// In source order: what is written, and where it leads.
    pub links: Vec<(String, Destination)>,
    /// What a fragment can point at.
    pub ids: HashSet<String>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BrokenLink {
    pub page: Address,
    pub href: String,
    pub address: Address,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BrokenFragment {
    pub page: Address,
    pub href: String,
    pub fragment: String,
}

/// Broken links and fragments of a whole site, in the order of pages and links.
///
/// `exists` answers for addresses of the site at which there is something else than a page. `#top` and the empty
/// fragment exist on every page, as the HTML standard says. O(links).
pub fn broken(
    pages: &[PageLinks],
    is_own: impl Fn(&Address) -> bool,
    exists: impl Fn(&Address) -> bool,
) -> (Vec<BrokenLink>, Vec<BrokenFragment>) {
    let by_address: HashMap<&Address, &PageLinks> = pages.iter().map(|page| (&page.address, page)).collect();
    let (mut links, mut fragments) = (Vec::new(), Vec::new());
    for page in pages {
        for (href, destination) in &page.links {
            let Destination::Page { address, fragment } = destination else { continue };
            if !is_own(address) {
                continue;
            }
            let Some(target) = by_address.get(address) else {
                if !exists(address) {
                    let (page, href, address) = (page.address.clone(), href.clone(), address.clone());
                    links.push(BrokenLink { page, href, address });
                }
                continue;
            };
            let Some(fragment) = fragment else { continue };
            if !has_fragment(&target.ids, fragment) {
                let (page, href, fragment) = (page.address.clone(), href.clone(), fragment.clone());
                fragments.push(BrokenFragment { page, href, fragment });
            }
        }
    }
    (links, fragments)
}

fn has_fragment(ids: &HashSet<String>, fragment: &str) -> bool {
    if ids.contains(fragment) || fragment.eq_ignore_ascii_case("top") {
        return true;
    }
    // The fragment of a parsed address is percent-encoded; an id in the page is not.
    let decoded = percent_decode_str(fragment).decode_utf8_lossy();
    ids.contains(&*decoded)
}
