//! The openings of a site: looked at page by page, kept right as the site changes, and given to whoever asks.

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::TextSpan;
use strelm_core::openings::{Candidate, Habits, Judge, Limits, Manners, Opening, OpeningIndex, Tally, kept};
use strelm_core::site::{LinkForm, PageId};
use strelm_core::tray::{Ground, Linkable};
use strelm_store::looked::LookedPage;

use super::{Model, ModelKnown};

/// When so many words are to be looked at or fewer, it is done while others wait; and pages that are counted anew.
const MOST_WORDS_AT_ONCE: usize = 60_000;
const MOST_COUNTED: usize = 500;

/// Pages to read for each name of a page while the whole site is not known yet.
const MOST_PAGES_UNKNOWN: usize = 100;

impl Model {
    /// Pages whose openings are known, and pages that are still to be looked at.
    pub fn openings_progress(&self) -> (usize, usize) {
        self.board.progress()
    }

    /// What is to be looked at next; with how often texts had changed by then.
    pub(crate) fn waiting(&self, most: usize) -> (Vec<PageId>, u64) {
        (self.board.waiting(most), self.texts_changed)
    }

    /// Whether all pages are known, though some may be judged again.
    pub(crate) fn openings_known(&self) -> bool {
        self.board.is_complete()
    }

    /// Looks at some pages, side by side.
    pub(crate) fn look_at(&self, pages: Vec<PageId>) -> Vec<(PageId, Vec<Candidate>)> {
        let sitting = self.judge().sit();
        pages.into_par_iter().map(|page| (page, sitting.candidates(page, OpeningIndex::MOST))).collect()
    }

    /// Takes note of what was found on some pages. Where other places were found than were known, they are to be kept for
    /// the next start.
    pub(crate) fn put_candidates(&mut self, found: Vec<(PageId, Vec<Candidate>)>) {
        for (page, row) in found {
            let known = self.board.index().row(page);
            let is_kept = known.is_some_and(|known| Candidate::are_places_of(known, &row));
            let is_new = self.by_another.remove(&page) || !is_kept;
            if let Some(version) = self.versions.get(&page).filter(|_| is_new) {
                self.to_keep.push(LookedPage { page, version: *version, found: kept::to_bytes(&row) });
            }
            self.board.put(page, row);
        }
    }

    /// Takes note of what was found in an earlier run, on pages that are still as they were then. It is judged again when
    /// there is time.
    pub(crate) fn restore(&mut self, looked: Vec<LookedPage>) {
        let holds = |looked: &LookedPage| self.versions.get(&looked.page) == Some(&looked.version);
        for LookedPage { page, found, .. } in looked.into_iter().filter(holds) {
            self.board.restore(page, kept::from_bytes(&self.book, page, &found));
        }
    }

    /// Tells by what openings are judged.
    pub(crate) fn judge_mark(&self) -> [u8; 32] {
        self.judging.mark()
    }

    /// What a change has to be told for.
    pub fn known(&self) -> ModelKnown {
        ModelKnown {
            learnt_from: self.learnt_from.clone(),
            shipped: self.judging.shipped_mark(),
            texts: self.texts_known(),
        }
    }

    /// Judges also by what this site's own links told, or no more. What was found holds until it is judged again.
    pub(crate) fn put_habits(&mut self, habits: Option<&Habits>) {
        if self.judging.follow(habits) {
            // What is being judged in this moment is judged by the one of before.
            self.texts_changed += 1;
            self.to_keep.clear();
            self.by_another.extend(self.versions.keys());
            self.board.judged_by_another();
        }
    }

    /// Takes note of pages that lack other links than before. O(pages whose figures changed).
    pub(crate) fn follow_needs(&mut self) {
        let changes = self.site.take_changes();
        self.board.follow_needs(&self.site, changes);
    }

    /// Brings the board up to what changed, but for texts that take longer to look at. O(candidates) for each page that
    /// is counted anew, of which there are at most [`MOST_COUNTED`].
    pub(crate) fn settle_openings(&mut self) {
        // As long as texts are missing nobody knows how telling words are.
        if !self.is_whole() {
            return;
        }
        let quick = self.board.waiting(MOST_COUNTED);
        let words_of = |page: &PageId| self.book.prose(*page).map_or(0, |prose| prose.tokens().len());
        if quick.len() < MOST_COUNTED && quick.iter().map(words_of).sum::<usize>() <= MOST_WORDS_AT_ONCE {
            self.put_candidates(self.look_at(quick));
        }
        let Self { site, book, versions, tray, passes, limits, never_words, today, board, judging, taste, .. } = self;
        let judge = Judge { site, book, ensemble: judging.ensemble(), taste: *taste };
        let wanted = Linkable { site, book, versions, passes, tray, limits, never_words, today: *today };
        let (worn, load) = (Some(tray.worn()), Some(tray.load()));
        let manners = Manners { limits: Some(limits.links), worn, load, words_twice: false };
        board.settle(judge, &wanted, manners, Limits::default(), MOST_COUNTED);
    }

    /// Whether all pages were looked at and counted.
    pub fn openings_settled(&self) -> bool {
        self.board.is_settled()
    }

    /// What a page has to offer, as far as it was looked at.
    pub fn tally(&self, page: PageId) -> Tally {
        self.board.tally(page).copied().unwrap_or_default()
    }

    /// The openings that lead to a page, the fittest first.
    pub fn openings_in(&self, target: PageId) -> Vec<Opening> {
        self.openings_in_most(target, self.opening_limits().most)
    }

    /// The same, so many of them.
    pub fn openings_in_most(&self, target: PageId, most: usize) -> Vec<Opening> {
        if !self.is_whole() {
            return Vec::new();
        }
        let limits = Limits { most, ..self.opening_limits() };
        self.judge().inbound(Some(self.board.index()), target, &self.linkable(), limits)
    }

    /// While the site is not known as a whole, a page with a common name is looked for on fewer pages.
    fn opening_limits(&self) -> Limits {
        match self.board.index().is_complete() {
            true => Limits::default(),
            false => Limits { most_pages: MOST_PAGES_UNKNOWN, ..Limits::default() },
        }
    }

    /// The openings on a page, the fittest first.
    pub fn openings_out(&self, source: PageId) -> Vec<Opening> {
        self.openings_out_with(source, self.manners())
    }

    /// The same for somebody with other manners than the site's.
    pub fn openings_out_with(&self, source: PageId, manners: Manners<'_>) -> Vec<Opening> {
        if !self.is_whole() {
            return Vec::new();
        }
        self.judge().outbound(Some(self.board.index()), source, &self.linkable(), manners, Limits::default())
    }

    /// See [`Ground::opening_on`].
    pub fn opening_on(&self, source: PageId, target: PageId, words: TextSpan) -> Option<Opening> {
        self.ground(None).opening_on(source, target, words)
    }

    /// What decisions about links are held against; `form` is how the site's links are written, where that is known.
    pub fn ground<'m>(&'m self, form: Option<&'m LinkForm>) -> Ground<'m> {
        Ground {
            linkable: self.linkable(),
            judge: self.judge(),
            is_whole: self.is_whole(),
            fragments: &self.fragments,
            planned_pages: &self.planned_pages,
            form,
        }
    }

    /// What tells how well an opening fits.
    pub fn judge(&self) -> Judge<'_> {
        Judge { site: &self.site, book: &self.book, ensemble: self.judging.ensemble(), taste: self.taste }
    }

    /// What tells which pages may be linked.
    pub fn linkable(&self) -> Linkable<'_> {
        Linkable {
            site: &self.site,
            book: &self.book,
            versions: &self.versions,
            passes: &self.passes,
            tray: &self.tray,
            limits: &self.limits,
            never_words: &self.never_words,
            today: self.today,
        }
    }

    /// What the site and its editors want of openings.
    pub fn manners(&self) -> Manners<'_> {
        let (worn, load) = (Some(self.tray.worn()), Some(self.tray.load()));
        Manners { limits: Some(self.limits.links), worn, load, words_twice: false }
    }
}
