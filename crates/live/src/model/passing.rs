//! What comes to pages as they pass, in a model.

use std::sync::Arc;

use strelm_core::document::ContentHash;
use strelm_core::site::PageId;
use strelm_core::tray::{TrayEntry, TrayState};
use strelm_store::edge::EdgeSettings;

use super::Model;

/// Of what the links depend that a page gets as it passes, but for the site around it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct PassingMark {
    rules: u64,
    handed_over: u64,
    /// The version of the page's source.
    source: Option<ContentHash>,
}

impl Model {
    pub(crate) fn put_edge(&mut self, edge: EdgeSettings) {
        self.edge = Arc::new(edge);
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
        PassingMark {
            rules: self.revisions.rules,
            handed_over: self.handed_over_revision,
            source: page.and_then(|page| self.sources.get(&page).copied()),
        }
    }
}
