//! Which pages a collection or a term archive lists, and which archives there are.

use std::collections::{BTreeMap, BTreeSet};

use super::page::{PageFile, PageType};

/// Term archives list at most so many pages.
const NEWEST_OF_TERM: usize = 5;

/// A category or a tag.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Term {
    pub taxonomy: &'static str,
    pub name: String,
}

impl Term {
    /// Where its archive stands.
    pub fn path(&self) -> String {
        let slug: Vec<_> = self.name.split(|c: char| !c.is_alphanumeric()).filter(|part| !part.is_empty()).collect();
        format!("/{}/{}/", self.taxonomy, slug.join("-").to_lowercase())
    }
}

/// The categories and tags of a page.
pub fn terms_of(page: &PageFile) -> Vec<Term> {
    let category = page.front.category.iter().map(|name| Term { taxonomy: "category", name: name.clone() });
    let tags = page.front.tags.iter().map(|name| Term { taxonomy: "tag", name: name.clone() });
    category.chain(tags).collect()
}

/// The categories and tags of all pages.
pub fn all_terms(pages: &BTreeMap<String, PageFile>) -> BTreeSet<Term> {
    pages.values().flat_map(terms_of).collect()
}

fn is_listed(page: &PageFile) -> bool {
    page.front.listed && page.front.moved_to.is_none()
}

/// Pages that the archive of a term lists: path and page, the newest first.
pub fn of_term<'a>(pages: &'a BTreeMap<String, PageFile>, term: &Term) -> Vec<(&'a str, &'a PageFile)> {
    let mut found: Vec<_> = pages.iter().filter(|(_, page)| is_listed(page) && terms_of(page).contains(term)).collect();
    found.sort_by(|a, b| b.1.front.date.cmp(&a.1.front.date));
    found.into_iter().take(NEWEST_OF_TERM).map(|(path, page)| (path.as_str(), page)).collect()
}

/// Pages that a collection lists: those of its folder, the newest first, the rest by title.
pub fn of_collection<'a>(pages: &'a BTreeMap<String, PageFile>, path: &str) -> Vec<(&'a str, &'a PageFile)> {
    let Some(collection) = pages.get(path).filter(|page| page.front.page_type == PageType::Collection) else {
        return Vec::new();
    };
    let inside = |(other, page): &(&String, &PageFile)| {
        let inner = other.strip_prefix(path).unwrap_or_default().trim_end_matches('/');
        is_listed(page) && !inner.is_empty() && !inner.contains('/')
    };
    let mut found: Vec<_> = pages.iter().filter(inside).collect();
    found.sort_by(|a, b| b.1.front.date.cmp(&a.1.front.date).then_with(|| a.1.front.title.cmp(&b.1.front.title)));
    let most = collection.front.newest.unwrap_or(usize::MAX);
    found.into_iter().take(most).map(|(path, page)| (path.as_str(), page)).collect()
}
