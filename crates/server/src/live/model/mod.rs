//! One site in memory: pages and links, names and prose, and what the editor decided.

mod openings;

use std::collections::{BTreeMap, HashMap, HashSet};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use chrono::NaiveDate;
use percent_encoding::percent_decode_str;
use strelm_core::document::{ContentHash, Document};
use strelm_core::language::fold;
use strelm_core::limits::HouseRules;
use strelm_core::openings::{Board, Ensemble, Lesson, Taste};
use strelm_core::phrases::{PhraseBook, ReadProse};
use strelm_core::site::{Address, OutLink, PageId, Site};
use strelm_store::Seq;
use strelm_store::lesson::Learnt;
use strelm_store::listed::ListedPage;
use strelm_store::looked::LookedPage;
use strelm_store::page::KnownPage;
use strelm_store::passed::Passed;
use strelm_store::reading::ReadingId;
use strelm_store::redirect::Absence;
use strelm_store::taken::TakenLink;

use super::judging::Judging;
use super::list::Kept;
use super::passes::Passes;
use super::planned::Planned;
use super::told::AllTold;

/// Pages that are looked at again when a page that they may name changed, for each of its names.
const MOST_MENTIONING: usize = 500;

pub struct Model {
    pub site: Site,
    pub book: PhraseBook,
    /// The version of each source that the prose was read from.
    pub versions: BTreeMap<PageId, ContentHash>,
    pub planned: Planned,
    passes: Passes,
    rules: HouseRules,
    /// Words that never carry a link, folded.
    never_words: HashSet<String>,
    /// By which the age of pages is told.
    today: NaiveDate,
    /// What this site's editors keep, as far as their decisions tell, and how many of them told it.
    pub taste: Taste,
    pub learnt_from: Learnt,
    /// The openings of all pages.
    board: Board,
    /// What was found and is not kept yet for the next start.
    pub(super) to_keep: Vec<LookedPage>,
    /// Counts changes of texts, of names and of what judges, so that who looked at them before knows.
    pub(super) texts_changed: u64,
    pub(super) told: AllTold,
    /// Pages that were there once; what was decided about them still names them.
    pub gone: BTreeMap<PageId, KnownPage>,
    /// Addresses at which there is nothing, and why.
    pub dead: BTreeMap<Address, Absence>,
    pub latest: Option<Latest>,
    first_readings: HashMap<PageId, ReadingId>,
    judging: Judging,
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
    pub source: Option<(Document, ReadProse, ContentHash)>,
    pub ids: Vec<String>,
}

/// What is to be known of a model to tell what of a change concerns it.
#[derive(Debug, Clone)]
pub struct Known {
    pub learnt_from: Learnt,
    /// Tells what judges openings on any site.
    pub shipped: [u8; 32],
}

/// The latest reading.
#[derive(Debug, Clone, Copy)]
pub struct Latest {
    pub reading: ReadingId,
    /// Whether there was none before, so that every page is new.
    pub is_first: bool,
}

impl Model {
    pub fn new(entry: Address, shipped: Arc<Ensemble>) -> Self {
        Self {
            site: Site::new(entry),
            book: PhraseBook::default(),
            versions: BTreeMap::new(),
            planned: Planned::default(),
            passes: Passes::default(),
            rules: HouseRules::default(),
            never_words: HashSet::new(),
            today: NaiveDate::default(),
            taste: Taste::EDITOR,
            learnt_from: Learnt::default(),
            board: Board::default(),
            to_keep: Vec::new(),
            texts_changed: 0,
            told: AllTold::default(),
            gone: BTreeMap::new(),
            dead: BTreeMap::new(),
            latest: None,
            first_readings: HashMap::new(),
            judging: Judging::new(shipped),
            listed: HashMap::new(),
            fragments: BTreeMap::new(),
            ids: HashMap::new(),
            seq: Seq::default(),
            kept: Kept::default(),
        }
    }

    /// A model of the same site that knows nothing yet.
    pub fn emptied(&self) -> Self {
        Self::new(self.site.entry().clone(), Arc::clone(self.judging.shipped()))
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
        self.texts_changed += 1;
        if facts.address == *self.site.entry() {
            self.book.speaks(facts.language);
        }
        match delta.source.as_ref().map(|(_, _, hash)| *hash) {
            Some(hash) => self.versions.insert(id, hash),
            None => self.versions.remove(&id),
        };
        let (document, prose) = delta.source.map(|(document, prose, _)| (document, prose)).unzip();
        let names = self.listed.get(&facts.address).cloned().unwrap_or_default();
        let read = document.as_ref().zip(prose);
        self.book.put_whole(&facts, names, read, |href| delta.hrefs.get(href).cloned());
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
        // While a site is loaded every page is put, and is looked at in its turn.
        let (known, _) = self.board.progress();
        let mentioning = if known > 0 { self.book.pages_that_may_mention(id, MOST_MENTIONING) } else { Vec::new() };
        self.board.changed(id, mentioning);
    }

    /// Takes note of listed pages; to be called before the pages are put.
    pub fn put_listed(&mut self, listed: Vec<ListedPage>) {
        self.listed = listed.into_iter().map(|page| (page.address, page.names)).collect();
    }

    fn remove_page(&mut self, id: PageId) {
        self.texts_changed += 1;
        self.board.removed(id);
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
        // A generous estimate: text, terms and postings of a word, the entries of a link, names, facts and candidates of a
        // page.
        words * 40 + links * 100 + self.site.pages().count() * 4000
    }

    pub fn put_taken(&mut self, taken: TakenLink) {
        if let Some(old) = self.planned.remove(taken.id) {
            self.board.decided(old.link.source, old.link.target);
        }
        self.board.decided(taken.link.source, taken.link.target);
        if taken.state.is_planned() {
            let link = &taken.link;
            if let Some(old) = link.change.old() {
                self.site.plan_removal(taken.id, link.source, &old.to);
            }
            if let Some(target) = link.target {
                self.site.plan(taken.id, link.source, target);
            }
            self.planned.put(taken);
        } else {
            self.site.unplan(taken.id);
        }
    }

    /// Replaces what is known of passes on the way to some pages.
    pub fn put_passed(&mut self, targets: &[PageId], passed: Vec<Passed>) {
        targets.iter().for_each(|target| self.board.decided_for_all(*target));
        self.passes.set(targets, passed);
    }

    pub fn put_rules(&mut self, rules: HouseRules) {
        if rules != self.rules {
            self.never_words = rules.never_words.iter().map(|words| fold(words)).collect();
            self.rules = rules;
            self.board.touch_all(self.site.pages().map(|page| page.id));
        }
    }

    /// Takes note of the day: pages may have become too old to be led to.
    pub(super) fn put_day(&mut self, today: NaiveDate) {
        if std::mem::replace(&mut self.today, today) != today && self.rules.oldest_months.is_some() {
            self.board.touch_all(self.site.pages().map(|page| page.id));
        }
    }

    /// The day on which pages were last looked at for their age.
    pub(super) fn day(&self) -> NaiveDate {
        self.today
    }

    /// What a new day brings, though nothing was written: pages have become too old.
    pub(super) fn follow_day(&mut self, today: NaiveDate) {
        self.put_day(today);
        self.settle_openings();
        self.kept = Kept::default();
    }

    pub fn rules(&self) -> &HouseRules {
        &self.rules
    }

    /// Learns from decisions of this site's editors, of which the latest are given.
    pub fn put_lessons(&mut self, learnt: Learnt, lessons: &[Lesson]) {
        let taste = Taste::learnt(self.judging.ensemble(), lessons);
        self.learnt_from = learnt;
        if taste != self.taste {
            self.taste = taste;
            self.board.touch_all(self.site.pages().map(|page| page.id));
        }
    }

    /// What is taken and not yet out on a page. O(links of the page).
    pub fn planned_on(&self, source: PageId) -> impl Iterator<Item = &TakenLink> {
        self.planned.on(source)
    }
}

fn hash(text: &str) -> u64 {
    let mut hasher = DefaultHasher::new();
    text.hash(&mut hasher);
    hasher.finish()
}
