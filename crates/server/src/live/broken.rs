//! Links that lead nowhere: to addresses at which there is nothing, or to places that are not on their page.

use std::collections::{BTreeMap, HashSet};

use strelm_core::audit::Likeliest;
use strelm_core::site::{Address, PageId, PageKind};

use super::model::Model;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fault {
    /// There is nothing at the address; the site answers with this status.
    Nothing(i16),
    /// The page is there, but not the place on it.
    NoPlace,
    /// The site sends on from there to this page.
    Moved(PageId),
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
    /// The page that it was most likely meant for.
    pub likeliest: Option<PageId>,
}

/// Links that lead to their page only because the site sends readers on. O(redirects + links to them).
pub(super) fn detours(model: &Model) -> Vec<BrokenLink> {
    let mut found = Vec::new();
    for (from, _) in model.site.redirects() {
        let Some(target) = model.site.page_at(from) else { continue };
        for inbound in model.site.linking_to(from) {
            let (content, furniture) = (inbound.content, inbound.furniture);
            let (page, to, fault) = (inbound.page, from.clone(), Fault::Moved(target));
            found.push(BrokenLink { page, to, fragment: None, fault, content, furniture, likeliest: Some(target) });
        }
    }
    found.sort_by(|a, b| (a.page, &a.to).cmp(&(b.page, &b.to)));
    found
}

/// Broken links by page. What the tray mends is left out. O(dead addresses + links to them + links to places), and
/// the names of all pages when there is a dead address.
pub(super) fn broken(model: &Model) -> BTreeMap<PageId, Vec<BrokenLink>> {
    let mut found: BTreeMap<PageId, Vec<BrokenLink>> = BTreeMap::new();
    let likeliest = if model.dead.is_empty() { Likeliest::default() } else { Likeliest::of(model.site.pages()) };
    for (to, status) in &model.dead {
        if model.site.page_at(to).is_some() {
            continue;
        }
        let inbound = model.site.linking_to(to);
        let meant = if inbound.is_empty() { None } else { likeliest.page_for(to, &[]) };
        for inbound in inbound {
            let (page, to, fault) = (inbound.page, to.clone(), Fault::Nothing(*status));
            let (content, furniture) = (inbound.content, inbound.furniture);
            let likeliest = meant.filter(|meant| *meant != page);
            let link = BrokenLink { page, to, fragment: None, fault, content, furniture, likeliest };
            found.entry(page).or_default().push(link);
        }
    }
    let mended: HashSet<(PageId, &Address, &str)> = model
        .planned
        .values()
        .filter_map(|taken| Some((taken.link.source, taken.link.change.old()?)))
        .filter_map(|(page, old)| Some((page, &old.to, old.fragment.as_deref()?)))
        .collect();
    for (page, links) in &model.fragments {
        for (to, fragment) in links {
            let Some(target) = model.site.page_at(to) else { continue };
            let is_file = model.site.page(target).is_some_and(|page| page.kind == PageKind::File);
            if is_file || model.has_fragment(target, fragment) || mended.contains(&(*page, to, fragment.as_str())) {
                continue;
            }
            let (page, to, fragment) = (*page, to.clone(), Some(fragment.clone()));
            let likeliest = Some(target).filter(|target| *target != page);
            let link = BrokenLink { page, to, fragment, fault: Fault::NoPlace, content: 1, furniture: 0, likeliest };
            found.entry(page).or_default().push(link);
        }
    }
    found
}
