//! What comes to pages as they pass, in a model.

use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

use strelm_core::document::ContentHash;
use strelm_core::site::{Address, LinkForm, PageId, Target};
use strelm_core::tray::{TrayEntry, TrayState};
use strelm_store::edge::EdgeSettings;

use super::Model;

/// Of what the links depend that a page gets as it passes, but for the site around it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct PassingMark {
    /// Of rules, of what is set for edges, and of what is handed over. No two models of a process have the same.
    revision: u64,
    /// The version of the page's source.
    source: Option<ContentHash>,
}

/// The next revision of any model.
fn next_revision() -> u64 {
    static LATEST: AtomicU64 = AtomicU64::new(0);
    LATEST.fetch_add(1, Ordering::Relaxed) + 1
}

impl Model {
    pub(crate) fn put_edge(&mut self, edge: EdgeSettings) {
        self.edge = Arc::new(edge);
        self.note_passing();
    }

    /// To be called when something changes that pages get as they pass.
    pub(super) fn note_passing(&mut self) {
        self.passing_revision = next_revision();
    }

    /// What editors set for the edges of the site.
    pub fn edge(&self) -> &Arc<EdgeSettings> {
        &self.edge
    }

    /// What is handed over of a page and put into it as it passes.
    pub(crate) fn carried(&self, page: PageId) -> impl Iterator<Item = &TrayEntry> {
        self.tray.on(page).filter(|entry| self.edge.carries && entry.state == TrayState::HandedOver)
    }

    /// Of what the links of a page depend as it passes.
    pub fn passing_mark(&self, page: Option<PageId>) -> PassingMark {
        let source = page.and_then(|page| self.sources.get(&page).copied());
        PassingMark { revision: self.passing_revision, source }
    }

    /// The foot of every page, if there is to be one, as it is written on the page at an address. `form` is how the site writes
    /// its links.
    pub fn footer(&self, address: &Address, form: Option<&LinkForm>) -> Option<String> {
        let footer = &self.edge.footer;
        footer.is_on.then(|| footer.html(|page| Target::Page(page).href(address, form, &self.ground(form)))).flatten()
    }
}
