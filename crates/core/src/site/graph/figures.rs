//! What the graph tells of a page: its figures, and who links to whom.

use std::collections::HashMap;

use super::Site;
use super::links::{AddressIndex, Counts, InboundPage};
use crate::ids::PageId;
use crate::site::figures::Figures;

impl Site {
    /// Figures of a page. O(redirects to it + its own links). Depths are those of the last [`Site::settle`].
    pub fn figures(&self, id: PageId) -> Option<Figures> {
        let record = self.record(id)?;
        let planned_out = self.planned_out.get(&id).map_or(0, Vec::len);
        let elsewhere = self.counted_content(id, record).filter(|link| self.page_behind(link.to) != Some(id));
        let links_out = elsewhere.count() + planned_out;
        let (links_in, content_links_in) = self.count_inbound(id, record.address);
        Some(Figures {
            links_in,
            content_links_in,
            links_out: u32::try_from(links_out).unwrap_or(u32::MAX),
            links_away: u32::try_from(record.away.len()).unwrap_or(u32::MAX),
            planned_in: self.planned_in.get(&id).copied().unwrap_or_default(),
            planned_out: u32::try_from(planned_out).unwrap_or(u32::MAX),
            depth: self.depths.of(id),
        })
    }

    /// Clicks from the entry page; `None` when the page cannot be reached, or is not there. O(1).
    pub fn depth(&self, id: PageId) -> Option<u32> {
        self.depths.of(id)
    }

    /// Other pages that link to a page, in the order of their numbers.
    pub fn inbound(&self, id: PageId) -> Vec<InboundPage> {
        let Some(record) = self.record(id) else { return Vec::new() };
        let mut counts: HashMap<PageId, Counts> = HashMap::new();
        for to in self.addresses_of(id, record.address) {
            for (page, found) in &self.inbound[to.at()].by_page {
                let sum = counts.entry(*page).or_default();
                sum.content += found.content;
                sum.boilerplate += found.boilerplate;
            }
        }
        let mut inbound: Vec<_> = counts
            .into_iter()
            .filter(|(page, sum)| *page != id && sum.content + sum.boilerplate > 0)
            .map(|(page, sum)| InboundPage { page, content: sum.content, boilerplate: sum.boilerplate })
            .collect();
        inbound.sort_by_key(|inbound| inbound.page);
        inbound
    }

    /// Whether a link in the tray leads from `source` to `target`.
    pub fn is_planned(&self, source: PageId, target: PageId) -> bool {
        self.planned_out.get(&source).is_some_and(|targets| targets.contains(&target))
    }

    /// Whether the content of `source`, or the tray, already leads to `target`. O(links of `source`).
    pub fn leads_to(&self, source: PageId, target: PageId) -> bool {
        self.is_planned(source, target)
            || self.record(source).is_some_and(|record| {
                self.counted_content(source, record).any(|link| self.page_behind(link.to) == Some(target))
            })
    }

    /// Pages that link to a page, and how many of them from content. O(1) unless other addresses redirect to it.
    pub(super) fn count_inbound(&self, id: PageId, address: AddressIndex) -> (u32, u32) {
        if self.redirected_here.contains_key(&address) {
            let inbound = self.inbound(id);
            let content = inbound.iter().filter(|inbound| inbound.content > 0).count();
            return (u32::try_from(inbound.len()).unwrap_or(u32::MAX), u32::try_from(content).unwrap_or(u32::MAX));
        }
        let inbound = &self.inbound[address.at()];
        let own = inbound.by_page.get(&id);
        let pages = inbound.by_page.len() - usize::from(own.is_some());
        let from_content = inbound.from_content - u32::from(own.is_some_and(|own| own.content > 0));
        (u32::try_from(pages).unwrap_or(u32::MAX), from_content)
    }

    /// The address of a page and all that redirect to it.
    pub(super) fn addresses_of(&self, id: PageId, address: AddressIndex) -> Vec<AddressIndex> {
        let mut found = vec![address];
        let mut next = 0;
        while let Some(to) = found.get(next).copied() {
            next += 1;
            let froms = self.redirected_here.get(&to).into_iter().flatten();
            let new: Vec<_> =
                froms.copied().filter(|from| !found.contains(from) && self.page_behind(*from) == Some(id)).collect();
            found.extend(new);
        }
        found
    }
}
