//! What is worked out of the graph as a whole, as it is known.

use std::cmp::Reverse;
use std::collections::BTreeMap;
use std::sync::Arc;

use strelm_core::audit::{ReachChange, ReachEdit};
use strelm_core::reach::{EquityRules, Soundings};
use strelm_core::site::{Moment, PageId};

use strelm_store::reading::ReadingId;

use super::Model;
use crate::answers::{KeptSoundings, ReachEdits, Sounded, SoundingsRevision, WholeAnswer};
use crate::kept::Revisions;

impl Model {
    /// How equity goes from page to page.
    pub fn equity_rules(&self) -> EquityRules {
        self.equity_rules
    }

    pub(super) fn put_equity_rules(&mut self, rules: EquityRules) {
        if self.equity_rules != rules {
            self.equity_rules = rules;
            self.equity_revision += 1;
            self.revisions.soundings += 1;
        }
    }

    /// What soundings of this moment would be worked out of.
    pub(crate) fn soundings_revision(&self, moment: Moment) -> SoundingsRevision {
        (self.site.revision(moment), self.equity_revision)
    }

    pub(crate) fn put_soundings(&mut self, moment: Moment, soundings: Arc<Soundings>, of: SoundingsRevision) {
        self.revisions.soundings += 1;
        let kept = Some(KeptSoundings { soundings, of });
        if !self.site.has_planned() {
            self.soundings_with_tray = None;
        }
        match moment {
            Moment::Now => self.soundings_now = kept,
            Moment::WithTray => self.soundings_with_tray = kept,
        }
    }

    /// The moment of which something is to be known: without anything in the tray both are the same.
    pub(crate) fn moment(&self, asked: Moment) -> Moment {
        if self.site.has_planned() { asked } else { Moment::Now }
    }

    /// The soundings of a moment as far as they are known.
    pub fn sounded(&self, moment: Moment) -> Sounded {
        let moment = self.moment(moment);
        let kept = match moment {
            Moment::WithTray => &self.soundings_with_tray,
            Moment::Now => &self.soundings_now,
        };
        let is_fresh = kept.as_ref().is_some_and(|kept| kept.of == self.soundings_revision(moment));
        Sounded { soundings: kept.as_ref().map(|kept| Arc::clone(&kept.soundings)), is_fresh }
    }

    /// The soundings of the site as it stands, however old.
    pub fn soundings(&self) -> Option<&Soundings> {
        self.soundings_now.as_ref().map(|kept| &*kept.soundings)
    }

    /// The link equity of a page as the site stands, beside that of the average page, as far as it is known.
    pub fn equity_of(&self, page: PageId) -> Option<f64> {
        self.soundings()?.beside_average(page)
    }

    /// An answer about the graph as a whole, worked out once after a change of what it tells.
    pub fn whole_answer(&self, which: WholeAnswer, work_out: impl FnOnce() -> Vec<u8>) -> Arc<Vec<u8>> {
        let at = Revisions { soundings: self.revisions().soundings, ..self.at_figures() };
        self.answers.whole.get(&which, at, work_out)
    }

    /// Takes note of what came within reach and what was lost with a reading.
    pub(crate) fn put_reach_changes(&mut self, reading: ReadingId, changes: Vec<ReachChange>) {
        self.revisions.reading += 1;
        self.reach_changes = Some((reading, Arc::new(changes)));
    }

    /// Whether it is known what the latest reading that came to its end brought within reach.
    pub fn reach_is_compared(&self) -> bool {
        let done = self.latest.filter(|latest| !latest.is_under_way).map(|latest| latest.reading);
        done.is_none_or(|done| self.reach_changes.as_ref().is_some_and(|(reading, _)| *reading >= done))
    }

    /// What came within reach with the latest reading, and what was lost, by edits. What the tray or a release mended meanwhile
    /// is no news any more. O(changes) once after a change of figures.
    pub fn reach_edits(&self) -> Arc<ReachEdits> {
        let at = Revisions { reading: self.revisions().reading, ..self.at_figures() };
        self.answers.reach_edits.get(&(), at, || {
            let changes = self.reach_changes.as_ref().map_or(&[][..], |(_, changes)| changes);
            let gathered = |came: bool| {
                let mut by_edit: BTreeMap<ReachEdit, Vec<PageId>> = BTreeMap::new();
                let holds = |change: &&ReachChange| {
                    let is_there = self.site.page(change.page).is_some();
                    change.came == came && is_there && self.site.depth(change.page).is_some() == came
                };
                changes.iter().filter(holds).for_each(|change| by_edit.entry(change.by).or_default().push(change.page));
                let mut edits: Vec<_> = by_edit.into_iter().collect();
                edits.sort_by_key(|(_, pages)| Reverse(pages.len()));
                edits
            };
            ReachEdits { came: gathered(true), lost: gathered(false) }
        })
    }

    pub(super) fn weight_of_soundings(&self) -> usize {
        [&self.soundings_now, &self.soundings_with_tray].into_iter().flatten().map(|kept| kept.soundings.weight()).sum()
    }
}
