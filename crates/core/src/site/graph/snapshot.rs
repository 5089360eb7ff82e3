//! The graph of the site at one moment, for whatever walks over all of it.

use super::Site;
use crate::ids::PageId;
use crate::reach::{Snapshot, Strength};

/// Which links a snapshot has.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Moment {
    /// As the site stands.
    Now,
    /// As it would stand were everything in the tray out.
    WithTray,
}

impl Site {
    /// Goes up whenever the graph may have changed: a snapshot of another revision is stale.
    pub fn revision(&self) -> u64 {
        self.revision
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
