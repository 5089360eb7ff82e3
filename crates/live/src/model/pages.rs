//! Pages in a model. Facts and links come first and are cheap; texts follow, from which openings are worked out.

use std::collections::HashMap;
use std::time::Instant;

use strelm_core::anchors::LookedLink;
use strelm_core::document::{ContentHash, Document};
use strelm_core::language::Language;
use strelm_core::phrases::ReadProse;
use strelm_core::site::{Address, OutLink, PageId};
use strelm_store::page::KnownPage;

use super::{Model, Texts, TextsKnown};

/// Pages that are looked at again when a page that they may name changed, for each of its names.
const MOST_MENTIONING: usize = 500;

/// Bytes of what is kept for each page beside its facts, text and openings: versions, and in which reading it came.
const OF_PAGE: usize = 250;

/// A page with its links: all that is needed to tell figures and reach.
pub struct GraphDelta {
    pub known: KnownPage,
    pub links: Vec<OutLink>,
    pub fragments: Vec<(Address, String)>,
    /// The version of its source.
    pub version: Option<ContentHash>,
    pub ids: Vec<String>,
}

/// The text of a page: all that is needed to tell openings.
pub struct TextDelta {
    pub page: PageId,
    /// In which it was read.
    pub language: Language,
    /// `None` where there is nothing that could be edited.
    pub source: Option<(Document, ReadProse, ContentHash)>,
    /// Where what is written in its content leads.
    pub hrefs: HashMap<String, Address>,
    /// What its links say.
    pub said: Vec<LookedLink>,
}

impl Model {
    /// Takes note of a page and its links; its text is to follow. O(its links), plus what comes within reach.
    pub fn put_graph(&mut self, delta: GraphDelta) {
        let GraphDelta { known, links, fragments, version, ids } = delta;
        let facts = known.facts.clone();
        let id = facts.id;
        self.came = Instant::now();
        if known.gone.is_some() {
            self.remove_page(id);
            self.gone.insert(id, known);
            return;
        }
        self.gone.remove(&id);
        self.texts_changed += 1;
        if facts.address == *self.site.entry() {
            self.book.speaks(facts.language);
        }
        let names = self.listed.get(&facts.address).cloned().unwrap_or_default();
        self.book.put_facts_alone(&facts, names);
        if self.unread.is_empty() {
            self.unread_since = self.came;
        }
        self.unread.insert(id);
        match version {
            Some(version) => self.sources.insert(id, version),
            None => self.sources.remove(&id),
        };
        match known.first_reading {
            Some(reading) => self.first_readings.insert(id, reading),
            None => self.first_readings.remove(&id),
        };
        self.fragments.put(id, ids.iter().map(String::as_str), fragments);
        self.revisions.pages += 1;
        self.revisions.figures += 1;
        self.site.put_page(facts, &links);
    }

    /// Takes note of the text of a page that is known; what is not the page's latest text is put in, too, and asked for
    /// once more. As [`strelm_core::phrases::PhraseBook::put_read`].
    pub fn put_text(&mut self, delta: TextDelta) {
        let TextDelta { page, language, source, hrefs, said } = delta;
        if self.book.facts(page).is_none_or(|facts| facts.language != language) {
            return;
        }
        let version = source.as_ref().map(|(_, _, version)| *version);
        if version.as_ref() == self.sources.get(&page) {
            self.unread.remove(&page);
        }
        self.texts_changed += 1;
        self.put_in_reading += 1;
        match version {
            Some(version) => self.versions.insert(page, version),
            None => self.versions.remove(&page),
        };
        self.anchors.put(page, &said);
        let (document, prose) = source.map(|(document, prose, _)| (document, prose)).unzip();
        self.book.put_read(page, document.as_ref().zip(prose), |href| hrefs.get(href).cloned());
        // Where all or much of a site comes, every page is looked at in its turn.
        let (known, _) = self.board.progress();
        let mentioning = match known > 0 && self.book.is_counted() {
            true => self.book.pages_that_may_mention(page, MOST_MENTIONING),
            false => Vec::new(),
        };
        self.board.changed(page, mentioning);
    }

    fn remove_page(&mut self, id: PageId) {
        self.texts_changed += 1;
        self.unread.remove(&id);
        self.board.removed(id);
        self.book.remove_page(id);
        self.anchors.remove(id);
        self.versions.remove(&id);
        self.sources.remove(&id);
        self.first_readings.remove(&id);
        self.fragments.remove(id);
        self.revisions.pages += 1;
        self.revisions.figures += 1;
        self.site.remove_page(id);
    }

    /// Gives names to all pages that wait for theirs.
    pub fn name_all(&mut self) {
        while self.book.name_some(usize::MAX) {}
    }

    /// In which language the text of a page is to be read, when it is still to be.
    pub fn language_of_unread(&self, page: PageId) -> Option<Language> {
        let facts = self.site.page(page).filter(|_| self.unread.contains(&page));
        facts.map(|facts| facts.language)
    }

    /// Pages whose texts are still to be read, those after a page, with the languages in which they are.
    pub fn unread_after(&self, page: Option<PageId>, most: usize) -> Vec<(PageId, Language)> {
        let first = page.map_or(PageId(0), |page| PageId(page.0.saturating_add(1)));
        let unread = self.unread.range(first..).take(most);
        unread.filter_map(|page| Some((*page, self.site.page(*page)?.language))).collect()
    }

    pub(crate) fn is_whole(&self) -> bool {
        self.texts == Texts::Whole
    }

    /// How many texts are still to come while no openings can be told; `None` when they can.
    pub fn texts_to_come(&self) -> Option<usize> {
        (!self.is_whole()).then_some(self.unread.len())
    }

    /// How many texts are still to be read.
    pub fn texts_waiting(&self) -> usize {
        self.unread.len()
    }

    /// The same for whoever is told what is still missing; `None` when nothing is.
    pub fn texts_missing(&self) -> Option<usize> {
        Some(self.unread.len()).filter(|missing| *missing > 0)
    }

    /// How many bytes the model takes, counted from what is in it: all but what is planned, which weighs next to nothing.
    /// O(pages + phrases + links).
    pub fn weight(&self) -> usize {
        let of_pages = self.site.pages().count() * OF_PAGE;
        self.site.weight()
            + self.book.weight()
            + self.board.weight()
            + self.fragments.weight()
            + self.anchors.weight()
            + self.weight_of_soundings()
            + of_pages
    }

    /// Which texts are known.
    pub fn texts_known(&self) -> TextsKnown {
        TextsKnown {
            read: self.book.prose_count(),
            unread: self.unread.len(),
            is_whole: self.is_whole(),
            in_reading: self.latest.filter(|latest| latest.is_under_way).map(|_| self.put_in_reading),
            quiet: self.came.elapsed(),
            waiting: self.unread_since.elapsed(),
        }
    }
}
