//! Links that lead nowhere: to addresses at which there is nothing, or to places that are not on their page.

use std::collections::{BTreeMap, HashSet};
use std::fmt;

use strelm_core::audit::Likeliest;
use strelm_core::site::{Address, PageId, PageKind};

use strelm_store::redirect::Absence;

use super::model::Model;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fault {
    /// There is nothing at the address.
    Nothing(Absence),
    /// The page is there, but not the place on it.
    NoPlace,
    /// The site sends on from there to this page.
    Moved(PageId),
    /// The address says `http` where the site says `https`, or the other way round.
    OtherScheme(PageId),
    /// The page names this one as the one to be linked to.
    NotCanonical(PageId),
}

impl fmt::Display for Fault {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Nothing(Absence::Status(status)) => write!(f, "nothing there (status {status})"),
            Self::Nothing(Absence::Draft) => f.write_str("a draft that readers cannot see"),
            Self::NoPlace => f.write_str("the page has no such place"),
            Self::Moved(_) => f.write_str("the page has moved"),
            Self::OtherScheme(_) => f.write_str("http and https are mixed up"),
            Self::NotCanonical(_) => f.write_str("the page names another one as canonical"),
        }
    }
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

/// Links that lead to their page by a detour: the site sends readers on, the scheme is the other one, or the page names
/// another one in its stead. O(pages + redirects + links to what is found).
pub(super) fn detours(model: &Model) -> Vec<BrokenLink> {
    let site = &model.site;
    let behind = |from: &Address| site.page_at(from);
    let moved = site.redirects().filter_map(|(from, _)| Some((from, Fault::Moved(behind(from)?))));
    let other_scheme = site.twins().filter_map(|from| Some((from, Fault::OtherScheme(behind(from)?))));
    let stand_ins = site.pages().filter_map(|page| {
        let canonical = site.page_at(page.standing.canonical.as_ref()?).filter(|canonical| *canonical != page.id)?;
        Some((&page.address, Fault::NotCanonical(canonical)))
    });
    let mut found = Vec::new();
    for (to, fault) in moved.chain(other_scheme).chain(stand_ins) {
        let target = match fault {
            Fault::Moved(target) | Fault::OtherScheme(target) | Fault::NotCanonical(target) => target,
            Fault::Nothing(_) | Fault::NoPlace => continue,
        };
        // A page that names another one does not have to send its readers there.
        let inbound = site.linking_to(to).into_iter().filter(|inbound| inbound.page != target);
        found.extend(inbound.map(|inbound| BrokenLink {
            page: inbound.page,
            to: to.clone(),
            fragment: None,
            fault,
            content: inbound.content,
            furniture: inbound.furniture,
            likeliest: Some(target),
        }));
    }
    found.sort_by(|a, b| (a.page, &a.to).cmp(&(b.page, &b.to)));
    found
}

/// Broken links by page. What the tray mends is left out. O(dead addresses + links to them + links to places), and
/// the names of all pages when there is a dead address.
pub(super) fn broken(model: &Model) -> BTreeMap<PageId, Vec<BrokenLink>> {
    let mut found: BTreeMap<PageId, Vec<BrokenLink>> = BTreeMap::new();
    let likeliest = if model.dead.is_empty() { Likeliest::default() } else { Likeliest::of(model.site.pages()) };
    for (to, why) in &model.dead {
        if model.site.page_at(to).is_some() {
            continue;
        }
        let inbound = model.site.linking_to(to);
        let meant = if inbound.is_empty() { None } else { likeliest.page_for(to, &[]) };
        for inbound in inbound {
            let (page, to, fault) = (inbound.page, to.clone(), Fault::Nothing(*why));
            let (content, furniture) = (inbound.content, inbound.furniture);
            let likeliest = meant.filter(|meant| *meant != page);
            let link = BrokenLink { page, to, fragment: None, fault, content, furniture, likeliest };
            found.entry(page).or_default().push(link);
        }
    }
    let mended: HashSet<(PageId, &Address, &str)> = model
        .planned
        .all()
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
