//! One site in memory: pages and links, names and prose, and what the editor decided.

use std::collections::{BTreeMap, HashSet};

use strelm_core::document::{ContentHash, Document};
use strelm_core::openings::{self, Limits, Opening};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{Address, ChangeId, OutLink, PageFacts, PageId, Site};
use strelm_store::Seq;
use strelm_store::taken::TakenLink;

use super::list::Kept;

pub struct Model {
    pub site: Site,
    pub book: PhraseBook,
    /// The version of each source that the prose was read from.
    pub versions: BTreeMap<PageId, ContentHash>,
    pub planned: BTreeMap<ChangeId, TakenLink>,
    pub passed: HashSet<(PageId, PageId)>,
    /// How far in the journal the model is.
    pub seq: Seq,
    /// Worked out of the rest; to be forgotten whenever the rest changes.
    pub(super) kept: Kept,
}

/// A page with all that the model takes from it.
pub struct PageDelta {
    pub facts: PageFacts,
    pub links: Vec<OutLink>,
    pub source: Option<(Document, ContentHash)>,
}

impl Model {
    pub fn new(entry: Address) -> Self {
        Self {
            site: Site::new(entry),
            book: PhraseBook::default(),
            versions: BTreeMap::new(),
            planned: BTreeMap::new(),
            passed: HashSet::new(),
            seq: Seq::default(),
            kept: Kept::default(),
        }
    }

    pub fn put_page(&mut self, delta: PageDelta) {
        let id = delta.facts.id;
        self.book.put_page(&delta.facts);
        self.book.put_prose(id, delta.source.as_ref().map(|(document, _)| document));
        match delta.source {
            Some((_, hash)) => self.versions.insert(id, hash),
            None => self.versions.remove(&id),
        };
        self.site.put_page(delta.facts, &delta.links);
    }

    pub fn put_taken(&mut self, taken: TakenLink) {
        if taken.state.is_planned() {
            self.site.plan(taken.id, taken.link.source, taken.link.target);
            self.planned.insert(taken.id, taken);
        } else {
            self.site.unplan(taken.id);
            self.planned.remove(&taken.id);
        }
    }

    pub fn put_passed(&mut self, source: PageId, target: PageId, is_passed: bool) {
        if is_passed {
            self.passed.insert((source, target));
        } else {
            self.passed.remove(&(source, target));
        }
    }

    pub fn openings_in(&self, target: PageId) -> Vec<Opening> {
        let mut found =
            openings::inbound(&self.site, &self.book, target, |s, t| self.is_passed(s, t), Limits::default());
        found.retain(|opening| !self.is_used(opening));
        found
    }

    pub fn openings_out(&self, source: PageId) -> Vec<Opening> {
        let mut found =
            openings::outbound(&self.site, &self.book, source, |s, t| self.is_passed(s, t), Limits::default());
        found.retain(|opening| !self.is_used(opening));
        found
    }

    fn is_passed(&self, source: PageId, target: PageId) -> bool {
        self.passed.contains(&(source, target))
    }

    /// Whether a link in the tray already stands on these words.
    pub fn is_used(&self, opening: &Opening) -> bool {
        self.planned_on(opening.source).any(|taken| taken.link.words.overlaps(opening.words))
    }

    /// What is taken and not yet out on a page. O(links in the tray).
    pub fn planned_on(&self, source: PageId) -> impl Iterator<Item = &TakenLink> {
        self.planned.values().filter(move |taken| taken.link.source == source)
    }
}
