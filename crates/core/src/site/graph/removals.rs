//! Content links that are to go: counted no more from when that is planned.

use super::{AddressIndex, KeptLink, Record, Removal, Site};
use crate::document::Region;
use crate::ids::{ChangeId, PageId};
use crate::site::address::Address;

impl Site {
    /// Counts one content link from `source` to `from` no more: in the tray it goes, or leads elsewhere. O(links of
    /// `source`).
    pub fn plan_removal(&mut self, change: ChangeId, source: PageId, from: &Address) {
        let to = self.intern(from);
        let removals = self.removals.entry(source).or_default();
        if removals.iter().any(|removal| removal.change == change) {
            return;
        }
        removals.push(Removal { change, to, counts: false });
        self.revision += 1;
        self.lay_removals(source);
    }

    pub(super) fn lift_removals(&mut self, page: PageId) {
        let removals = self.removals.get_mut(&page).map(std::mem::take).unwrap_or_default();
        if removals.is_empty() {
            return;
        }
        let found: Vec<_> = removals.iter().filter(|removal| removal.counts).map(|removal| removal.to).collect();
        found.iter().for_each(|to| self.count(*to, page, Region::Content, 1));
        let lifted = removals.into_iter().map(|removal| Removal { counts: false, ..removal }).collect();
        self.removals.insert(page, lifted);
        found.into_iter().for_each(|to| self.road_found(to));
    }

    /// Each removal takes one link to its address; one for which there is none left waits.
    pub(super) fn lay_removals(&mut self, page: PageId) {
        let Some(mut removals) = self.removals.remove(&page) else { return };
        let mut lost = Vec::new();
        for at in 0..removals.len() {
            let to = removals[at].to;
            let taken = removals.iter().filter(|removal| removal.counts && removal.to == to).count();
            if !removals[at].counts && self.content_links_to(page, to) > taken {
                removals[at].counts = true;
                self.count(to, page, Region::Content, -1);
                lost.push(to);
            }
        }
        self.removals.insert(page, removals);
        lost.into_iter().for_each(|to| self.road_lost(to));
    }

    fn content_links_to(&self, page: PageId, to: AddressIndex) -> usize {
        let links = self.record(page).into_iter().flat_map(|record| &record.links);
        links.filter(|link| link.to == to && link.region == Region::Content).count()
    }

    pub(super) fn unplan_removal(&mut self, change: ChangeId) {
        let found = self.removals.iter().find(|(_, removals)| removals.iter().any(|removal| removal.change == change));
        let Some(page) = found.map(|(page, _)| *page) else { return };
        self.lift_removals(page);
        if let Some(removals) = self.removals.get_mut(&page) {
            removals.retain(|removal| removal.change != change);
        }
        self.lay_removals(page);
        self.removals.retain(|_, removals| !removals.is_empty());
    }

    /// The content links of a page that are counted: those that are to go are left out. O(links).
    pub(super) fn counted_content<'s>(
        &'s self,
        page: PageId,
        record: &'s Record,
    ) -> impl Iterator<Item = &'s KeptLink> + 's {
        let mut left_out: Vec<AddressIndex> =
            self.removals.get(&page).into_iter().flatten().filter(|r| r.counts).map(|r| r.to).collect();
        let content = record.links.iter().filter(|link| link.region == Region::Content);
        content.filter(move |link| match left_out.iter().position(|out| *out == link.to) {
            Some(at) => {
                left_out.swap_remove(at);
                false
            }
            None => true,
        })
    }
}
