//! The graph of the site at one moment, for whatever walks over all of it.

use super::Site;
use crate::ids::PageId;
use crate::reach::{Snapshot, Strength};
use crate::site::address::Address;

/// Which links a snapshot has.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Moment {
    /// As the site stands.
    Now,
    /// As it would stand were everything in the tray out.
    WithTray,
}

impl Site {
    /// Goes up whenever the graph of a moment may have changed: a snapshot of another revision is stale.
    pub fn revision(&self, moment: Moment) -> u64 {
        match moment {
            Moment::Now => self.standing,
            Moment::WithTray => self.revision,
        }
    }

    /// The roads of a page as the site stands: each page to which one leads, with the address by which it does. O(its
    /// links).
    pub fn roads_by_address(&self, page: PageId) -> impl Iterator<Item = (PageId, &Address)> {
        let links = self.record(page).into_iter().flat_map(|record| &record.links);
        let roads = links.filter(|link| self.roads.count(link));
        roads.filter_map(|link| Some((self.page_behind(link.to)?, self.addresses.get_index(link.to.at())?)))
    }

    /// Addresses of the site to which a page leads, and at which there is no page. O(its links).
    pub fn links_nowhere(&self, page: PageId) -> impl Iterator<Item = &Address> {
        let links = self.record(page).into_iter().flat_map(|record| &record.links);
        let nowhere = links.filter(|link| self.page_behind(link.to).is_none());
        nowhere.filter_map(|link| self.addresses.get_index(link.to.at()))
    }

    /// Whether anything in the tray changes the graph.
    pub fn has_planned(&self) -> bool {
        !self.planned.is_empty() || !self.removals.is_empty()
    }

    /// The pages and roads of a moment. O(pages + links).
    pub fn snapshot(&self, moment: Moment) -> Snapshot {
        let pages: Vec<PageId> = self.pages().map(|page| page.id).collect();
        Snapshot::new(pages, self.entry_pages(), |page, roads| {
            let Some(record) = self.record(page) else { return };
            let road =
                |link: &super::KeptLink| Some((self.page_behind(link.to)?, Strength::of(link.region, link.marks)));
            match moment {
                Moment::Now => {
                    roads.extend(record.links.iter().filter(|link| self.roads.count(link)).filter_map(road));
                }
                Moment::WithTray => {
                    roads.extend(self.roads_of(page, record).filter_map(road));
                    let planned = self.planned_out.get(&page).into_iter().flatten();
                    roads.extend(planned.map(|target| (*target, Strength::CONTENT)));
                }
            }
        })
    }
}
