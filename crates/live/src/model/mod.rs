//! One site in memory: pages and links, names and prose, and what the editor decided.

mod openings;
mod pages;
mod passing;
mod reach;
mod rules;

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use std::sync::Arc;
use std::time::{Duration, Instant};

use chrono::NaiveDate;
use strelm_core::anchors::SiteAnchors;
use strelm_core::audit::ReachChange;
use strelm_core::document::ContentHash;
use strelm_core::language::fold;
use strelm_core::limits::SiteLimits;
use strelm_core::openings::{Board, Ensemble, Lesson, Taste};
use strelm_core::phrases::PhraseBook;
use strelm_core::reach::EquityRules;
use strelm_core::site::{Absence, Address, Fragments, PageId, PlannedPageId, Site};
use strelm_core::tray::{Passed, Passes, Tray, TrayEntry, TrayState};
use strelm_store::Seq;
use strelm_store::edge::EdgeSettings;
use strelm_store::lesson::Learnt;
use strelm_store::listed::ListedPage;
use strelm_store::looked::LookedPage;
use strelm_store::page::KnownPage;
use strelm_store::planned_page::PlannedPage;
use strelm_store::reading::ReadingId;
use strelm_store::site::Settings;

use super::answers::{Answers, KeptSoundings};
use super::judging::Judging;
use super::kept::Revisions;
use super::rules::counts::KeptTally;
use super::rules::site_rules::SiteRules;

pub use self::pages::{GraphDelta, TextDelta};
pub use self::passing::PassingMark;

/// A site in memory: its pages, links, words and openings, its tray, and what its editors decided.
pub struct Model {
    pub site: Site,
    pub book: PhraseBook,
    /// What its links say, of the pages whose texts are known.
    pub anchors: SiteAnchors,
    /// The version of each source that the prose was read from.
    pub versions: BTreeMap<PageId, ContentHash>,
    /// The version of each source as it is kept.
    pub sources: BTreeMap<PageId, ContentHash>,
    /// Pages whose texts are still to be read. All else of them is known.
    pub(super) unread: BTreeSet<PageId>,
    unread_since: Instant,
    pub(super) texts: Texts,
    /// Texts that were put in since a reading began.
    pub(super) put_in_reading: usize,
    /// When the last page came.
    pub(super) came: Instant,
    pub tray: Tray,
    passes: Passes,
    limits: SiteLimits,
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
    /// Pages of which is kept what another judge found, which is none for the next start.
    by_another: BTreeSet<PageId>,
    /// Counts changes of texts, of names and of what judges, so that who looked at them before knows.
    pub(super) texts_changed: u64,
    /// Pages that were there once; what was decided about them still names them.
    pub gone: BTreeMap<PageId, KnownPage>,
    /// Addresses at which there is nothing, and why.
    pub dead: BTreeMap<Address, Absence>,
    pub latest: Option<Latest>,
    first_readings: HashMap<PageId, ReadingId>,
    judging: Judging,
    /// Names by which listed pages want to be found.
    listed: HashMap<Address, Vec<String>>,
    /// Places on pages, and links to them.
    pub fragments: Fragments,
    /// Where pages are to be that are planned.
    pub planned_pages: BTreeMap<PlannedPageId, Address>,
    /// How far in the journal the model is.
    pub seq: Seq,
    revisions: Revisions,
    equity_rules: EquityRules,
    /// Counts changes of these.
    equity_revision: u64,
    /// What is worked out of the graph in the background, of the site as it stands and with the tray.
    soundings_now: Option<KeptSoundings>,
    soundings_with_tray: Option<KeptSoundings>,
    /// What came within reach and what was lost with a reading.
    reach_changes: Option<(ReadingId, Arc<Vec<ReachChange>>)>,
    /// Worked out of the rest.
    pub(super) answers: Answers,
    rules: Arc<SiteRules>,
    /// How many places they have, as it was counted last.
    pub(crate) rule_tally: Option<KeptTally>,
    /// What is set for what comes to pages as they pass.
    edge: Arc<EdgeSettings>,
    /// Changes with whatever pages get as they pass.
    passing_revision: u64,
}

/// What is to be known of a model to tell what of a change concerns it.
#[derive(Debug, Clone)]
pub struct ModelKnown {
    pub learnt_from: Learnt,
    /// Tells what judges openings on any site.
    pub shipped: [u8; 32],
    pub texts: TextsKnown,
}

/// Whether openings can be told.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Texts {
    /// The texts were never all in here; what was found in an earlier run is still to be brought back.
    Loading,
    /// Many of them are to come anew.
    Returning,
    /// They are in here and counted, but for a few at most.
    Whole,
}

/// Which texts are known.
#[derive(Debug, Clone, Copy)]
pub struct TextsKnown {
    /// Pages whose text is known, and is not.
    pub read: usize,
    pub unread: usize,
    pub is_whole: bool,
    /// Whether a reading is under way, and how many texts came in it.
    pub in_reading: Option<usize>,
    /// How long no page has come.
    pub quiet: Duration,
    /// How long texts have been waiting for.
    pub waiting: Duration,
}

/// The latest reading.
#[derive(Debug, Clone, Copy)]
pub struct Latest {
    pub reading: ReadingId,
    /// Whether there was none before, so that every page is new.
    pub is_first: bool,
    /// Whether it still brings pages.
    pub is_under_way: bool,
}

impl Model {
    /// A model of a site of which nothing is loaded yet.
    pub fn new(entry: Address, shipped: Arc<Ensemble>) -> Self {
        Self {
            site: Site::new(entry),
            book: PhraseBook::default(),
            anchors: SiteAnchors::default(),
            versions: BTreeMap::new(),
            sources: BTreeMap::new(),
            unread: BTreeSet::new(),
            unread_since: Instant::now(),
            texts: Texts::Loading,
            put_in_reading: 0,
            came: Instant::now(),
            tray: Tray::default(),
            passes: Passes::default(),
            limits: SiteLimits::default(),
            never_words: HashSet::new(),
            today: NaiveDate::default(),
            taste: Taste::EDITOR,
            learnt_from: Learnt::default(),
            board: Board::default(),
            to_keep: Vec::new(),
            by_another: BTreeSet::new(),
            texts_changed: 0,
            gone: BTreeMap::new(),
            dead: BTreeMap::new(),
            latest: None,
            first_readings: HashMap::new(),
            judging: Judging::new(shipped),
            listed: HashMap::new(),
            fragments: Fragments::default(),
            planned_pages: BTreeMap::new(),
            seq: Seq::default(),
            revisions: Revisions::default(),
            equity_rules: EquityRules::default(),
            equity_revision: 0,
            soundings_now: None,
            soundings_with_tray: None,
            reach_changes: None,
            answers: Answers::default(),
            rules: Arc::default(),
            rule_tally: None,
            edge: Arc::default(),
            passing_revision: 0,
        }
    }

    /// A model of the same site that knows nothing yet of its pages.
    pub fn emptied(&self) -> Self {
        let empty = Self::new(self.site.entry().clone(), Arc::clone(self.judging.shipped()));
        Self { reach_changes: self.reach_changes.clone(), ..empty }
    }

    /// Takes note of listed pages; to be called before the pages are put.
    pub fn put_listed(&mut self, listed: Vec<ListedPage>) {
        self.listed = listed.into_iter().map(|page| (page.address, page.names)).collect();
    }

    /// Sets what there is at addresses without a page.
    pub fn put_elsewhere(&mut self, redirects: &[(Address, Address)], dead: Vec<(Address, Absence)>) {
        let kept: HashSet<&Address> = redirects.iter().map(|(from, _)| from).collect();
        let ended: Vec<_> =
            self.site.redirects().map(|(from, _)| from.clone()).filter(|from| !kept.contains(from)).collect();
        ended.iter().for_each(|from| self.site.remove_redirect(from));
        redirects.iter().for_each(|(from, to)| self.site.put_redirect(from, to));
        self.dead = dead.into_iter().collect();
        self.revisions.pages += 1;
        self.revisions.figures += 1;
    }

    /// Whether a page appeared in the latest reading, and there was one before.
    pub fn is_fresh(&self, page: PageId) -> bool {
        let latest = self.latest.filter(|latest| !latest.is_first);
        latest.is_some_and(|latest| self.first_readings.get(&page) == Some(&latest.reading))
    }

    /// Whether there is a place on a page at which a fragment can point.
    pub fn has_fragment(&self, page: PageId, fragment: &str) -> bool {
        self.fragments.has(page, fragment)
    }

    /// Takes note of what became of a planned link.
    pub fn put_taken(&mut self, entry: TrayEntry) {
        let old = self.tray.remove(entry.id);
        if [old.as_ref(), Some(&entry)].into_iter().flatten().any(|entry| entry.state == TrayState::HandedOver) {
            self.note_passing();
        }
        if let Some(old) = old {
            self.board.decided(old.link.source, old.link.target_page());
        }
        self.board.decided(entry.link.source, entry.link.target_page());
        let leads_nowhere = entry.link.target_page().is_some_and(|target| self.site.page(target).is_none());
        if entry.link.change.displaced().is_some() || leads_nowhere {
            self.revisions.pages += 1;
        }
        self.revisions.figures += 1;
        if entry.state.is_planned() {
            let link = &entry.link;
            if let Some(old) = link.change.displaced() {
                self.site.plan_removal(entry.id, link.source, &old.to);
            }
            if let Some(target) = link.target_page().filter(|target| *target != link.source) {
                self.site.plan(entry.id, link.source, target);
            }
            self.tray.put(entry);
        } else {
            self.site.unplan(entry.id);
        }
    }

    /// Sets where readers start and which links are roads, and how links of the site are written.
    pub(super) fn put_settings(&mut self, settings: &Settings) {
        self.revisions.figures += 1;
        self.site.set_reach(&settings.entries, settings.roads);
        self.put_equity_rules(settings.equity);
    }

    pub(super) fn put_planned_pages(&mut self, planned: Vec<PlannedPage>) {
        self.planned_pages = planned.into_iter().map(|page| (page.id, page.address)).collect();
    }

    /// Takes note of the latest reading.
    pub(super) fn put_latest(&mut self, latest: Latest) {
        if self.latest.is_none_or(|known| known.reading != latest.reading) {
            self.put_in_reading = 0;
        }
        self.revisions.reading += 1;
        self.latest = Some(latest);
    }

    /// Which changes of what there have been.
    pub(crate) fn revisions(&self) -> Revisions {
        let Revisions { pages, .. } = self.revisions;
        Revisions {
            pages: pages + self.book.site_names(),
            tallies: self.board.tallies_changed(),
            rows: self.board.rows_changed(),
            ..self.revisions
        }
    }

    /// Replaces what is known of passes on the way to some pages.
    pub fn put_passed(&mut self, targets: &[PageId], passed: Vec<Passed>) {
        targets.iter().for_each(|target| self.board.decided_for_all(*target));
        self.passes.set(targets, passed);
    }

    /// Sets what was decided for the whole site; what depends on it is looked at again. O(pages) where limits changed.
    pub fn put_limits(&mut self, limits: SiteLimits) {
        if limits != self.limits {
            self.never_words = limits.never_words.iter().map(|words| fold(words)).collect();
            self.limits = limits;
            self.board.touch_all(self.site.pages().map(|page| page.id));
        }
    }

    /// Takes note of the day: pages may have become too old to be led to.
    pub(super) fn put_day(&mut self, today: NaiveDate) {
        if std::mem::replace(&mut self.today, today) != today && self.limits.oldest_months.is_some() {
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
    }

    /// What was decided for the whole site.
    pub fn limits(&self) -> &SiteLimits {
        &self.limits
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
    pub fn planned_on(&self, source: PageId) -> impl Iterator<Item = &TrayEntry> {
        self.tray.on(source)
    }
}
