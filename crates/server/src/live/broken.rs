//! Links that lead nowhere: to addresses at which there is nothing, or to places that are not on their page.

use std::collections::BTreeMap;

use strelm_core::site::{Address, PageId, PageKind};

use super::model::Model;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fault {
    /// There is nothing at the address; the site answers with this status.
    Nothing(i16),
    /// The page is there, but not the place on it.
    NoPlace,
}

/// One or more links on a page with the same fault.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BrokenLink {
    pub page: PageId,
    pub to: Address,
    pub fragment: Option<String>,
    pub fault: Fault,
    /// How many of them stand in the page's content, and how many around it.
    pub content: u32,
    pub furniture: u32,
}

/// Broken links by page. O(dead addresses + links to them + links to places).
pub(super) fn broken(model: &Model) -> BTreeMap<PageId, Vec<BrokenLink>> {
    let mut found: BTreeMap<PageId, Vec<BrokenLink>> = BTreeMap::new();
    for (to, status) in &model.dead {
        if model.site.page_at(to).is_some() {
            continue;
        }
        for inbound in model.site.linking_to(to) {
            let (page, to, fault) = (inbound.page, to.clone(), Fault::Nothing(*status));
            let (content, furniture) = (inbound.content, inbound.furniture);
            let link = BrokenLink { page, to, fragment: None, fault, content, furniture };
            found.entry(page).or_default().push(link);
        }
    }
    for (page, links) in &model.fragments {
        for (to, fragment) in links {
            let Some(target) = model.site.page_at(to) else { continue };
            let is_file = model.site.page(target).is_some_and(|page| page.kind == PageKind::File);
            if is_file || model.has_fragment(target, fragment) {
                continue;
            }
            let (page, to, fragment) = (*page, to.clone(), Some(fragment.clone()));
            let link = BrokenLink { page, to, fragment, fault: Fault::NoPlace, content: 1, furniture: 0 };
            found.entry(page).or_default().push(link);
        }
    }
    found
}
