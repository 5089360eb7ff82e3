//! All that a decision about links is held against, of a made-up site.

use std::collections::{BTreeMap, HashMap, HashSet};

use chrono::{DateTime, NaiveDate};
use strelm_core::document::{ContentHash, Document};
use strelm_core::limits::SiteLimits;
use strelm_core::openings::{Ensemble, Judge, Taste};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{Address, ChangeId, Fragments, LinkForm, PageId, PlannedPageId, Site};
use strelm_core::tray::{Ground, Linkable, Passes, PlannedLink, Tray, TrayEntry, TrayState};

use super::world::{World, world};

pub struct GroundOf {
    pub site: Site,
    pub book: PhraseBook,
    pub world: World,
    pub ensemble: Ensemble,
    pub versions: BTreeMap<PageId, ContentHash>,
    pub passes: Passes,
    pub tray: Tray,
    pub limits: SiteLimits,
    pub never_words: HashSet<String>,
    pub fragments: Fragments,
    pub planned_pages: BTreeMap<PlannedPageId, Address>,
}

impl GroundOf {
    pub fn of(pages: &[String]) -> Self {
        let (site, book, world) = world(pages);
        let mut fragments = Fragments::default();
        for (page, document) in &world.documents {
            fragments.put(*page, document.ids(), Vec::new());
        }
        Self {
            versions: world.documents.iter().map(|(page, document)| (*page, document.hash())).collect(),
            ensemble: Ensemble::shipped().unwrap(),
            passes: Passes::default(),
            tray: Tray::default(),
            limits: SiteLimits::default(),
            never_words: HashSet::new(),
            planned_pages: BTreeMap::new(),
            site,
            book,
            world,
            fragments,
        }
    }

    pub fn judge(&self) -> Judge<'_> {
        Judge { site: &self.site, book: &self.book, ensemble: &self.ensemble, taste: Taste::EDITOR }
    }

    pub fn ground<'g>(&'g self, form: Option<&'g LinkForm>) -> Ground<'g> {
        let linkable = Linkable {
            site: &self.site,
            book: &self.book,
            versions: &self.versions,
            passes: &self.passes,
            tray: &self.tray,
            limits: &self.limits,
            never_words: &self.never_words,
            today: NaiveDate::default(),
        };
        Ground {
            linkable,
            judge: self.judge(),
            is_whole: true,
            fragments: &self.fragments,
            planned_pages: &self.planned_pages,
            form,
        }
    }

    pub fn documents(&self) -> HashMap<PageId, Document> {
        self.world.documents.clone()
    }
}

/// An entry of the tray with the next number.
pub fn entry(id: i64, link: PlannedLink) -> TrayEntry {
    let taken_at = DateTime::default();
    TrayEntry { id: ChangeId(id), link, state: TrayState::Tray, sighting: None, message: None, taken_at }
}
