//! What is taken and not yet out.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use rustc_hash::FxHashMap;

use super::entry::TrayEntry;
use crate::ids::{ChangeId, PageId};
use crate::language::fold;
use crate::limits::ReleaseLoad;

/// Planned links by number and by the page on which they stand, with what follows from all of them.
#[derive(Debug, Default)]
pub struct Tray {
    entries: BTreeMap<ChangeId, TrayEntry>,
    by_source: HashMap<PageId, BTreeSet<ChangeId>>,
    /// How often words, folded, lead to a page.
    worn: FxHashMap<(String, PageId), usize>,
    load: ReleaseLoad,
}

impl Tray {
    /// O(log entries).
    pub fn put(&mut self, entry: TrayEntry) {
        self.remove(entry.id);
        self.by_source.entry(entry.link.source).or_default().insert(entry.id);
        if let Some(key) = worn_key(&entry) {
            *self.worn.entry(key).or_default() += 1;
        }
        if let Some(target) = entry.link.brings().filter(|_| entry.state.is_in_tray()) {
            self.load.put(target, entry.link.shown_anchor());
        }
        self.entries.insert(entry.id, entry);
    }

    /// Takes an entry out, if it is there. O(entries of its page).
    pub fn remove(&mut self, id: ChangeId) -> Option<TrayEntry> {
        let old = self.entries.remove(&id)?;
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
        if let Some(target) = old.link.brings().filter(|_| old.state.is_in_tray()) {
            self.load.take_off(target, old.link.shown_anchor());
        }
        Some(old)
    }

    /// In the order in which they were taken.
    pub fn all(&self) -> impl Iterator<Item = &TrayEntry> {
        self.entries.values()
    }

    /// Those that wait in the tray, or are on their way out of it.
    pub fn waiting(&self) -> impl Iterator<Item = &TrayEntry> {
        self.all().filter(|entry| entry.state.is_in_tray())
    }

    /// How many entries there are, in any state.
    pub fn len(&self) -> usize {
        self.entries.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }

    /// Those on a page, in the order in which they were taken. O(entries of the page).
    pub fn on(&self, source: PageId) -> impl Iterator<Item = &TrayEntry> {
        self.by_source.get(&source).into_iter().flatten().filter_map(|id| self.entries.get(id))
    }

    /// How often words, folded, lead to a page in what is taken and not yet out.
    pub const fn worn(&self) -> &FxHashMap<(String, PageId), usize> {
        &self.worn
    }

    /// What the next release brings.
    pub const fn load(&self) -> &ReleaseLoad {
        &self.load
    }
}

fn worn_key(entry: &TrayEntry) -> Option<(String, PageId)> {
    let target = entry.link.brings()?.page()?;
    Some((fold(entry.link.shown_anchor()), target))
}
