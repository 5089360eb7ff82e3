//! What is to be said of a site as a whole. Each answer is worked out when it is first asked for after what it depends on
//! changed.

use std::collections::HashSet;
use std::sync::Arc;

use strelm_core::audit::{self, BrokenByPage, FaultyLink, FaultyPlace, Lacking, broken_on, gathered};
use strelm_core::openings::Opening;
use strelm_core::site::{Address, BetterEntry, PageFacts, PageId};

use super::answers::Totals;
use super::kept::Revisions;
use super::model::Model;
use super::query::Only;

/// The best pages that are kept, and the best openings of the site.
const MOST_BEST: usize = 20;
const MOST_BEST_OPENINGS: usize = 10;

impl Model {
    /// O(pages) once, see [`Self::broken`], else O(1).
    pub fn totals(&self) -> Totals {
        let at = self.revisions();
        let count = || {
            let mut totals = Totals::default();
            for (page, figures) in self.all_figures() {
                let lacks = |lacking: Lacking| usize::from(lacking.is_true_of(&self.site, page, &figures));
                let passes = |only| usize::from(self.passes(only, page, &figures));
                totals.pages += 1;
                totals.orphans += lacks(Lacking::LinksIn);
                totals.unreachable += lacks(Lacking::AWayThere);
                totals.dead_ends += lacks(Lacking::LinksOut);
                totals.fresh += passes(Only::Fresh);
                totals.fresh_unlinked += passes(Only::FreshUnlinked);
            }
            for link in self.broken().values().flatten() {
                match link.fragment {
                    None => totals.broken_links += (link.content + link.boilerplate) as usize,
                    Some(_) => totals.broken_fragments += 1,
                }
            }
            totals
        };
        *self.answers.totals.get(&(), Revisions { reading: at.reading, ..self.at_figures() }, count)
    }

    /// Broken links by page. Cost once as [`audit::broken`].
    pub fn broken(&self) -> Arc<BrokenByPage> {
        let of_site = || audit::broken(&self.site, &self.dead, &self.fragments, &self.tray);
        self.answers.broken.get(&(), self.at_pages(), of_site)
    }

    /// How many links on a page lead nowhere.
    pub fn broken_on(&self, page: PageId) -> u32 {
        broken_on(&self.broken(), page)
    }

    /// See [`audit::detours`].
    pub fn detours(&self) -> Arc<Vec<FaultyLink>> {
        self.answers.detours.get(&(), self.at_figures(), || audit::detours(&self.site))
    }

    /// See [`strelm_core::site::Site::better_entry`].
    pub fn better_entry(&self) -> Option<BetterEntry> {
        *self.answers.better_entry.get(&(), self.at_figures(), || self.site.better_entry())
    }

    /// Broken links by what they lead to, the most gainful first. See [`gathered`].
    pub fn faulty(&self) -> Arc<Vec<FaultyPlace>> {
        let gather = || gathered(&self.site, self.broken().values().flatten());
        self.answers.faulty.get(&(), self.at_figures(), gather)
    }

    /// Detours in the same manner.
    pub fn detoured(&self) -> Arc<Vec<FaultyPlace>> {
        let gather = || gathered(&self.site, self.detours().iter());
        self.answers.detoured.get(&(), self.at_figures(), gather)
    }

    /// The faulty links that lead to one place, broken or by a detour. O(faulty places).
    pub fn faulty_at(&self, to: &Address, fragment: Option<&str>) -> Option<FaultyPlace> {
        let is_it = |place: &&FaultyPlace| place.to == *to && place.fragment.as_deref() == fragment;
        self.faulty().iter().find(is_it).or(self.detoured().iter().find(is_it)).cloned()
    }

    /// The page whose best opening is best, and so on: no page and no target twice. O(pages) once.
    fn best_pages(&self) -> Arc<Vec<PageId>> {
        let at = self.revisions();
        let best = || {
            let best = |page: &PageFacts| {
                let tally = self.tally(page.id);
                Some((tally.best_out?, page.id, tally.best_target?))
            };
            let mut all: Vec<_> = self.site.pages().filter(|page| page.editable).filter_map(best).collect();
            all.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
            let mut targets = HashSet::new();
            // Whatever leads to where readers start gains nothing.
            let gains = all.into_iter().filter(|(.., target)| !self.site.is_entry(*target));
            let one_each = gains.filter(|(.., target)| targets.insert(*target));
            one_each.map(|(_, page, _)| page).take(MOST_BEST).collect()
        };
        self.answers.best.get(&(), Revisions { tallies: at.tallies, ..self.at_figures() }, best)
    }

    /// The best openings of the whole site, one for each page and none to the same target. O(words of some pages) once.
    pub fn best_openings(&self) -> Arc<Vec<Opening>> {
        let at = self.revisions();
        let best = || {
            let mut targets = HashSet::new();
            let pages = self.best_pages();
            let best = pages.iter().filter_map(|page| self.openings_out(*page).into_iter().next());
            best.filter(|opening| targets.insert(opening.target)).take(MOST_BEST_OPENINGS).collect()
        };
        self.answers.best_openings.get(&(), Revisions { tallies: at.tallies, rows: at.rows, ..self.at_figures() }, best)
    }

    /// What hangs on pages alone.
    pub(crate) fn at_pages(&self) -> Revisions {
        Revisions { pages: self.revisions().pages, ..Revisions::default() }
    }

    /// What hangs on figures, and on pages with them.
    pub(crate) fn at_figures(&self) -> Revisions {
        Revisions { figures: self.revisions().figures, ..self.at_pages() }
    }
}
