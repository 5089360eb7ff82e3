//! Links that lead nowhere: to addresses at which there is nothing, or to places that are not on their page.

use std::collections::{BTreeMap, HashSet};

use super::fault::{Fault, FaultyLink};
use super::likeliest::Likeliest;
use crate::ids::PageId;
use crate::site::{Absence, Address, Fragments, PageKind, Site};
use crate::tray::Tray;

/// Broken links by the page that they stand on.
pub type BrokenByPage = BTreeMap<PageId, Vec<FaultyLink>>;

/// Broken links of a whole site; `dead` are addresses at which there is nothing. What the tray mends is left out. O(dead
/// addresses + links to them + links to places), and the names of all pages when there is a dead address.
pub fn broken(site: &Site, dead: &BTreeMap<Address, Absence>, fragments: &Fragments, tray: &Tray) -> BrokenByPage {
    let mut found = BrokenByPage::new();
    let likeliest = if dead.is_empty() { Likeliest::default() } else { Likeliest::of(site.pages()) };
    for (to, why) in dead.iter().filter(|(to, _)| site.page_at(to).is_none()) {
        let inbound = site.linking_to(to);
        let meant = if inbound.is_empty() { None } else { likeliest.page_for(to, &[]) };
        for inbound in inbound {
            let (page, to, fault) = (inbound.page, to.clone(), Fault::Nothing(*why));
            let (content, boilerplate) = (inbound.content, inbound.boilerplate);
            let likeliest = meant.filter(|meant| *meant != page);
            let link = FaultyLink { page, to, fragment: None, fault, content, boilerplate, likeliest };
            found.entry(page).or_default().push(link);
        }
    }
    let displaced = tray.all().filter_map(|entry| Some((entry.link.source, entry.link.change.displaced()?)));
    let mended: HashSet<(PageId, &Address, &str)> =
        displaced.filter_map(|(page, old)| Some((page, &old.to, old.fragment.as_deref()?))).collect();
    for (page, links) in fragments.links() {
        for (to, fragment) in links {
            let Some(target) = site.page_at(to) else { continue };
            let is_file = site.page(target).is_some_and(|page| page.kind == PageKind::File);
            if is_file || fragments.has(target, fragment) || mended.contains(&(page, to, fragment.as_str())) {
                continue;
            }
            let (to, fragment) = (to.clone(), Some(fragment.clone()));
            let likeliest = Some(target).filter(|target| *target != page);
            let link = FaultyLink { page, to, fragment, fault: Fault::NoPlace, content: 1, boilerplate: 0, likeliest };
            found.entry(page).or_default().push(link);
        }
    }
    found
}

/// How many links on a page lead nowhere.
pub fn broken_on(broken: &BrokenByPage, page: PageId) -> u32 {
    broken.get(&page).map_or(0, |links| links.iter().map(|link| link.content + link.boilerplate).sum())
}
