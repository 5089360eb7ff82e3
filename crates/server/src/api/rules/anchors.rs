//! The words with which a site's own authors lead to a page.

use std::collections::{BTreeSet, HashMap};

use strelm_core::document::Region;
use strelm_core::language::{fold, words};
use strelm_core::site::PageId;
use strelm_store::page::StoredLink;

use strelm_live::Model;

/// Longer anchor texts are sentences and no phrases.
const MOST_WORDS: usize = 6;

/// Words that lead to a page, and on how many pages they do.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AnchorInUse {
    pub text: String,
    pub pages: u32,
}

/// The anchor texts of links in the content of pages by where they lead, those on most pages first. One that leads to several
/// pages, such as “read more”, names none of them. O(links).
pub fn in_use(model: &Model, links: &[StoredLink]) -> HashMap<PageId, Vec<AnchorInUse>> {
    let mut used: HashMap<String, HashMap<PageId, (String, BTreeSet<PageId>)>> = HashMap::new();
    for link in links.iter().filter(|link| link.region == Region::Content) {
        let Some(to) = model.site.page_at(&link.to).filter(|to| *to != link.page) else { continue };
        let text = link.anchor.split_whitespace().collect::<Vec<_>>().join(" ");
        if (1..=MOST_WORDS).contains(&words(&text).count()) {
            let of = used.entry(fold(&text)).or_default().entry(to).or_insert_with(|| (text, BTreeSet::new()));
            of.1.insert(link.page);
        }
    }
    let mut by_page: HashMap<PageId, Vec<AnchorInUse>> = HashMap::new();
    for (to, (text, pages)) in used.into_values().filter(|leads| leads.len() == 1).flatten() {
        let pages = u32::try_from(pages.len()).unwrap_or(u32::MAX);
        by_page.entry(to).or_default().push(AnchorInUse { text, pages });
    }
    for anchors in by_page.values_mut() {
        anchors.sort_by(|one, other| other.pages.cmp(&one.pages).then_with(|| one.text.cmp(&other.text)));
    }
    by_page
}
