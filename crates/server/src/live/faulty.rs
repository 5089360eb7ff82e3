//! Links with a fault, gathered by what they lead to: what is wrong with an address is mended in all its places at once.

use std::collections::BTreeMap;

use strelm_core::site::{Address, PageId};

use super::broken::{BrokenLink, Fault};
use super::model::Model;

/// All links of the site that lead to one faulty place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Faulty {
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
    pub furniture: u32,
}

/// Gathers links by what they lead to, those first whose mending gains most: links to pages before links to places,
/// content before templates, and what stands on many pages. O(links × log links).
pub(super) fn faulty<'l>(model: &Model, links: impl Iterator<Item = &'l BrokenLink>) -> Vec<Faulty> {
    let mut all: BTreeMap<(&Address, Option<&str>), Faulty> = BTreeMap::new();
    for link in links {
        let faulty = all.entry((&link.to, link.fragment.as_deref())).or_insert_with(|| Faulty {
            to: link.to.clone(),
            fragment: link.fragment.clone(),
            fault: link.fault,
            likeliest: None,
            pages: Vec::new(),
            around: Vec::new(),
            content: 0,
            furniture: 0,
        });
        faulty.likeliest = faulty.likeliest.or(link.likeliest);
        faulty.content += link.content;
        faulty.furniture += link.furniture;
        let pages = if link.content > 0 { &mut faulty.pages } else { &mut faulty.around };
        pages.push(link.page);
    }
    let depth = |page: &PageId| model.site.figures(*page).and_then(|figures| figures.depth).unwrap_or(u32::MAX);
    let mut all: Vec<_> = all.into_values().collect();
    for faulty in &mut all {
        faulty.pages.sort_by_cached_key(|page| (depth(page), *page));
        faulty.around.sort_by_cached_key(|page| (depth(page), *page));
    }
    all.sort_by_cached_key(|faulty| {
        let nearest = faulty.pages.first().or(faulty.around.first()).map(depth);
        let gain = |places: u32| std::cmp::Reverse(places);
        (faulty.fragment.is_some(), faulty.content == 0, gain(faulty.content), gain(faulty.furniture), nearest)
    });
    all
}

impl Model {
    /// The faulty links that lead to one place, broken or by a detour. O(faulty places).
    pub fn faulty_at(&self, to: &Address, fragment: Option<&str>) -> Option<&Faulty> {
        let is_it = |faulty: &&Faulty| faulty.to == *to && faulty.fragment.as_deref() == fragment;
        self.faulty().iter().find(is_it).or_else(|| self.detoured().iter().find(is_it))
    }
}
