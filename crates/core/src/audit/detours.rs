//! Links that lead to their page by a detour.

use super::fault::{Fault, FaultyLink};
use crate::site::{Address, Site};

/// Links from which the site sends readers on, whose scheme is the other one, or whose page names another one in its stead,
/// in the order of pages and addresses. O(pages + redirects + links to what is found).
pub fn detours(site: &Site) -> Vec<FaultyLink> {
    let behind = |from: &Address| site.page_at(from);
    let moved = site.redirects().filter_map(|(from, _)| behind(from).map(|to| (from, Fault::Moved(to), to)));
    let twins = site.twins().filter_map(|from| behind(from).map(|to| (from, Fault::OtherScheme(to), to)));
    let stand_ins = site.pages().filter_map(|page| {
        let to = site.page_at(page.standing.canonical.as_ref()?).filter(|canonical| *canonical != page.id)?;
        Some((&page.address, Fault::NotCanonical(to), to))
    });
    let mut found = Vec::new();
    for (to, fault, target) in moved.chain(twins).chain(stand_ins) {
        // A page that names another one does not have to send its readers there.
        let inbound = site.linking_to(to).into_iter().filter(|inbound| inbound.page != target);
        found.extend(inbound.map(|inbound| FaultyLink {
            page: inbound.page,
            to: to.clone(),
            fragment: None,
            fault,
            content: inbound.content,
            boilerplate: inbound.boilerplate,
            likeliest: Some(target),
        }));
    }
    found.sort_by(|a, b| (a.page, &a.to).cmp(&(b.page, &b.to)));
    found
}
