//! What is known of the tray before anybody tries to release it.

use std::collections::{BTreeMap, HashMap};

use super::contents::Tray;
use super::entry::TrayEntry;
use crate::document::ContentHash;
use crate::ids::{ChangeId, PageId};
use crate::limits::LinkLimits;
use crate::site::Site;

/// What speaks against entries, and what their pages carry with them.
#[derive(Debug, Default)]
pub struct Outlook {
    /// Why an entry was held back, or will be.
    pub warnings: HashMap<ChangeId, String>,
    /// Links in the content of each page to other pages: now, and with what is in the tray.
    pub links: BTreeMap<PageId, (u32, u32)>,
}

impl TrayEntry {
    /// What is known against it by itself, before its page is looked at. `sources` are the versions of pages that can be
    /// edited.
    pub fn warning(&self, site: &Site, sources: &BTreeMap<PageId, ContentHash>) -> Option<String> {
        self.message.clone().or_else(|| self.outdated(site, sources).map(str::to_owned))
    }

    fn outdated(&self, site: &Site, sources: &BTreeMap<PageId, ContentHash>) -> Option<&'static str> {
        let link = &self.link;
        if link.target_page().is_some_and(|target| site.page(target).is_none()) {
            return Some("The page that it leads to is no longer on the site. Drop this link.");
        }
        match sources.get(&link.source) {
            None => Some("The page is no longer on the site, or cannot be edited any more. Drop this link."),
            Some(hash) if *hash != link.source_hash => {
                Some("The page has changed since; the link is placed anew when it is released.")
            }
            Some(_) => None,
        }
    }
}

/// What a release of the tray as it is would bring. O(entries + links of their pages).
pub fn outlook(tray: &Tray, site: &Site, sources: &BTreeMap<PageId, ContentHash>, limits: LinkLimits) -> Outlook {
    let mut outlook = Outlook::default();
    let mut entries: Vec<_> = tray.waiting().collect();
    entries.sort_by_key(|entry| (entry.link.source, entry.link.words, entry.id));
    let breaches = limits.broken_by(entries.iter().copied());
    for entry in entries {
        let source = entry.link.source;
        let (_, after) = *outlook.links.entry(source).or_insert_with(|| {
            let figures = site.figures(source).unwrap_or_default();
            let going = tray.on(source).filter(|other| other.link.change.displaced().is_some()).count();
            let going = u32::try_from(going).unwrap_or(u32::MAX);
            ((figures.links_out + going).saturating_sub(figures.planned_out), figures.links_out)
        });
        let breach = || breaches.get(&entry.id).map(|breach| format!("A limit would be broken: {breach}."));
        let crowded = || {
            let words = site.page(source).map_or(0, |facts| facts.words as usize);
            let most = limits.of_page(words);
            (after as usize > most).then(|| {
                format!("With these the page has {after} links in its content, more than {most} for its length.")
            })
        };
        let warning = entry.warning(site, sources).or_else(breach).or_else(crowded);
        outlook.warnings.extend(warning.map(|warning| (entry.id, warning)));
    }
    outlook
}
