//! What is taken and not yet out.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use rustc_hash::FxHashMap;
use strelm_core::language::fold;
use strelm_core::site::{ChangeId, PageId};
use strelm_store::taken::TakenLink;

/// Links of the tray, by number and by the page on which they stand.
#[derive(Default)]
pub struct Planned {
    links: BTreeMap<ChangeId, TakenLink>,
    by_source: HashMap<PageId, BTreeSet<ChangeId>>,
    /// How often words, folded, lead to a page.
    worn: FxHashMap<(String, PageId), usize>,
}

impl Planned {
    /// O(log links).
    pub fn put(&mut self, taken: TakenLink) {
        self.remove(taken.id);
        self.by_source.entry(taken.link.source).or_default().insert(taken.id);
        if let Some(key) = worn_key(&taken) {
            *self.worn.entry(key).or_default() += 1;
        }
        self.links.insert(taken.id, taken);
    }

    pub fn remove(&mut self, id: ChangeId) -> Option<TakenLink> {
        let old = self.links.remove(&id)?;
        if let Some(of_page) = self.by_source.get_mut(&old.link.source) {
            of_page.remove(&id);
        }
        if let Some(key) = worn_key(&old)
            && let Some(uses) = self.worn.get_mut(&key)
        {
            *uses -= 1;
            if *uses == 0 {
                self.worn.remove(&key);
            }
        }
        Some(old)
    }

    pub fn all(&self) -> impl Iterator<Item = &TakenLink> {
        self.links.values()
    }

    pub fn len(&self) -> usize {
        self.links.len()
    }

    /// In the order in which they were taken. O(links of the page).
    pub fn on(&self, source: PageId) -> impl Iterator<Item = &TakenLink> {
        self.by_source.get(&source).into_iter().flatten().filter_map(|id| self.links.get(id))
    }

    pub fn worn(&self) -> &FxHashMap<(String, PageId), usize> {
        &self.worn
    }
}

fn worn_key(taken: &TakenLink) -> Option<(String, PageId)> {
    let target = taken.link.target.filter(|_| taken.link.change.brings_link())?;
    Some((fold(taken.link.shown_anchor()), target))
}
