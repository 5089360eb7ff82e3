//! One site in memory: pages and links, names and prose, and what the editor decided.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use percent_encoding::percent_decode_str;
use strelm_core::document::{ContentHash, Document};
use strelm_core::openings::{Ensemble, Judge, Limits, Opening, Wants};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{Address, ChangeId, OutLink, PageId, Site};
use strelm_store::Seq;
use strelm_store::listed::ListedPage;
use strelm_store::page::KnownPage;
use strelm_store::reading::ReadingId;
use strelm_store::redirect::Absence;
use strelm_store::taken::TakenLink;

use super::list::Kept;

pub struct Model {
    pub site: Site,
    pub book: PhraseBook,
    /// The version of each source that the prose was read from.
    pub versions: BTreeMap<PageId, ContentHash>,
    pub planned: BTreeMap<ChangeId, TakenLink>,
    pub passed: HashSet<(PageId, PageId)>,
    /// Pages that were there once; what was decided about them still names them.
    pub gone: BTreeMap<PageId, KnownPage>,
    /// Addresses at which there is nothing, and why.
    pub dead: BTreeMap<Address, Absence>,
    pub latest: Option<Latest>,
    first_readings: HashMap<PageId, ReadingId>,
    /// What judges openings.
    ensemble: Arc<Ensemble>,
    /// Names by which listed pages want to be found.
    listed: HashMap<Address, Vec<String>>,
    /// Links to places on pages.
    pub(super) fragments: BTreeMap<PageId, Vec<(Address, String)>>,
    ids: HashMap<PageId, HashSet<u64>>,
    /// How far in the journal the model is.
    pub seq: Seq,
    /// Worked out of the rest; to be forgotten whenever the rest changes.
    pub(super) kept: Kept,
}

/// A page with all that the model takes from it.
pub struct PageDelta {
    pub known: KnownPage,
    pub links: Vec<OutLink>,
    pub fragments: Vec<(Address, String)>,
    /// Where what is written on the page leads.
    pub hrefs: HashMap<String, Address>,
    pub source: Option<(Document, ContentHash)>,
    pub ids: Vec<String>,
}

/// The latest reading.
#[derive(Debug, Clone, Copy)]
pub struct Latest {
    pub reading: ReadingId,
    /// Whether there was none before, so that every page is new.
    pub is_first: bool,
}

impl Model {
    pub fn new(entry: Address, ensemble: Arc<Ensemble>) -> Self {
        Self {
            site: Site::new(entry),
            book: PhraseBook::default(),
            versions: BTreeMap::new(),
            planned: BTreeMap::new(),
            passed: HashSet::new(),
            gone: BTreeMap::new(),
            dead: BTreeMap::new(),
            latest: None,
            first_readings: HashMap::new(),
            ensemble,
            listed: HashMap::new(),
            fragments: BTreeMap::new(),
            ids: HashMap::new(),
            seq: Seq::default(),
            kept: Kept::default(),
        }
    }

    /// A model of the same site that knows nothing yet.
    pub fn emptied(&self) -> Self {
        Self::new(self.site.entry().clone(), Arc::clone(&self.ensemble))
    }

    pub fn put_page(&mut self, delta: PageDelta) {
        let facts = delta.known.facts.clone();
        let id = facts.id;
        if delta.known.gone.is_some() {
            self.remove_page(id);
            self.gone.insert(id, delta.known);
            return;
        }
        self.gone.remove(&id);
        self.book.put_page(&facts);
        let names = self.listed.get(&facts.address).cloned().unwrap_or_default();
        self.book.put_phrases(id, names);
        self.book
            .put_prose(id, delta.source.as_ref().map(|(document, _)| document), |href| delta.hrefs.get(href).cloned());
        match delta.source {
            Some((_, hash)) => self.versions.insert(id, hash),
            None => self.versions.remove(&id),
        };
        match delta.known.first_reading {
            Some(reading) => self.first_readings.insert(id, reading),
            None => self.first_readings.remove(&id),
        };
        match delta.fragments.is_empty() {
            true => self.fragments.remove(&id),
            false => self.fragments.insert(id, delta.fragments),
        };
        self.ids.insert(id, delta.ids.iter().map(|id| hash(id)).collect());
        self.site.put_page(facts, &delta.links);
    }

    /// Takes note of listed pages; to be called before the pages are put.
    pub fn put_listed(&mut self, listed: Vec<ListedPage>) {
        self.listed = listed.into_iter().map(|page| (page.address, page.names)).collect();
    }

    fn remove_page(&mut self, id: PageId) {
        self.book.remove_page(id);
        self.versions.remove(&id);
        self.first_readings.remove(&id);
        self.fragments.remove(&id);
        self.ids.remove(&id);
        self.site.remove_page(id);
    }

    /// Sets what there is at addresses without a page.
    pub fn put_elsewhere(&mut self, redirects: &[(Address, Address)], dead: Vec<(Address, Absence)>) {
        let kept: HashSet<&Address> = redirects.iter().map(|(from, _)| from).collect();
        let ended: Vec<_> =
            self.site.redirects().map(|(from, _)| from.clone()).filter(|from| !kept.contains(from)).collect();
        ended.iter().for_each(|from| self.site.remove_redirect(from));
        redirects.iter().for_each(|(from, to)| self.site.put_redirect(from, to));
        self.dead = dead.into_iter().collect();
    }

    /// Whether a page appeared in the latest reading, and there was one before.
    pub fn is_fresh(&self, page: PageId) -> bool {
        let latest = self.latest.filter(|latest| !latest.is_first);
        latest.is_some_and(|latest| self.first_readings.get(&page) == Some(&latest.reading))
    }

    /// Whether there is a place on a page at which a fragment can point.
    pub fn has_fragment(&self, page: PageId, fragment: &str) -> bool {
        let Some(ids) = self.ids.get(&page) else { return true };
        let decoded = percent_decode_str(fragment).decode_utf8_lossy();
        // The standard lets #top exist on every page.
        fragment.eq_ignore_ascii_case("top") || ids.contains(&hash(fragment)) || ids.contains(&hash(&decoded))
    }

    /// About how many bytes the model takes.
    pub fn weight(&self) -> usize {
        let words: usize = self.site.pages().map(|page| page.words as usize).sum();
        let links: usize = self.site.link_count();
        // A generous estimate: text, terms and postings of a word, the entries of a link, names and facts of a page.
        words * 40 + links * 100 + self.site.pages().count() * 2000
    }

    pub fn put_taken(&mut self, taken: TakenLink) {
        if taken.state.is_planned() {
            let link = &taken.link;
            if let Some(old) = link.change.old() {
                self.site.plan_removal(taken.id, link.source, &old.to);
            }
            if let Some(target) = link.target {
                self.site.plan(taken.id, link.source, target);
            }
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
        let mut found = self.judge().inbound(target, |s, t| self.is_unwanted(s, t), Limits::default());
        found.retain(|opening| !self.is_used(opening));
        found
    }

    pub fn openings_out(&self, source: PageId) -> Vec<Opening> {
        let mut found = self.judge().outbound(source, |s, t| self.is_unwanted(s, t), Limits::default());
        found.retain(|opening| !self.is_used(opening));
        found
    }

    /// The opening of a pair of pages on just these words, however weak it has become since it was shown.
    pub fn opening_on(&self, source: PageId, target: PageId, words: (usize, usize)) -> Option<Opening> {
        let limits = Limits { most: 1, least_fit: 0.0, words_twice: true, ..Limits::default() };
        let is_wanted = |opening: &Opening| (opening.words.start, opening.words.end) == words && !self.is_used(opening);
        let shown = self.openings_out(source).into_iter().chain(self.openings_in(target));
        let mut shown = shown.filter(|opening| (opening.source, opening.target) == (source, target));
        shown.find(is_wanted).or_else(|| {
            let other = |s: PageId, t: PageId| t != target || self.is_unwanted(s, t);
            self.judge().outbound(source, other, limits).into_iter().find(is_wanted)
        })
    }

    fn judge(&self) -> Judge<'_> {
        Judge { site: &self.site, book: &self.book, ensemble: &self.ensemble, wants: Wants::Editor }
    }

    /// What the editor passed, what is linked already, and pages to which nobody should be led.
    fn is_unwanted(&self, source: PageId, target: PageId) -> bool {
        let is_version = |page: PageId, other: PageId| {
            let standing = self.site.page(page).map(|page| &page.standing);
            standing.is_some_and(|standing| {
                standing.versions.iter().any(|version| self.site.page_at(&version.address) == Some(other))
            })
        };
        let standing = self.site.page(target).map(|page| &page.standing);
        let stands_in = standing.is_some_and(|standing| {
            let canonical = standing.canonical.as_ref().and_then(|canonical| self.site.page_at(canonical));
            canonical.is_some_and(|canonical| canonical != target)
        });
        self.is_passed(source, target)
            || self.site.leads_to(source, target)
            || stands_in
            || is_version(source, target)
            || is_version(target, source)
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

fn hash(text: &str) -> u64 {
    let mut hasher = DefaultHasher::new();
    text.hash(&mut hasher);
    hasher.finish()
}
