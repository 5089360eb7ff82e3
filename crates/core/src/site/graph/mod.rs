//! The site model: pages and links, changed by deltas, with the figures that follow from them always at hand.

mod figures;
mod links;
mod reach;
mod redirects;
mod removals;
mod snapshot;
mod weight;

use std::collections::HashMap;

use indexmap::IndexSet;
use rustc_hash::FxBuildHasher;

use self::links::{AddressIndex, Inbound, KeptLink, Record, Removal};
pub use self::links::{InboundPage, LinkAway, OutLink};
use super::address::Address;
use super::page::PageFacts;
use crate::document::{LinkMarks, Region};
use crate::ids::{ChangeId, PageId};
use crate::reach::Depths;

pub use reach::Changes;
pub use snapshot::Moment;

/// Which links are roads, when click depth is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default)]
pub enum RoadsCount {
    /// Links from anywhere: menus, headers, footers and asides too.
    #[default]
    All,
    /// Links in the content alone.
    Content,
}

/// What counts as a road.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct RoadRules {
    /// From where on a page links are roads.
    pub from: RoadsCount,
    /// Whether links that ask not to be followed are roads: readers follow them, crawlers may not.
    pub nofollow: bool,
}

impl Default for RoadRules {
    fn default() -> Self {
        Self { from: RoadsCount::All, nofollow: true }
    }
}

impl RoadRules {
    /// Whether a link that stands in a region and says this of itself is a road.
    const fn count(self, link: &KeptLink) -> bool {
        (matches!(self.from, RoadsCount::All) || matches!(link.region, Region::Content))
            && (self.nofollow || !link.marks.has(LinkMarks::NOFOLLOW))
    }
}

/// See the module. Memory: O(pages + links).
#[derive(Debug)]
pub struct Site {
    entry: AddressIndex,
    entry_address: Address,
    /// Further pages on which readers start.
    entries: Vec<AddressIndex>,
    roads: RoadRules,
    /// All addresses that anything leads to, each with its number.
    addresses: IndexSet<Address, FxBuildHasher>,
    page_at: Vec<Option<PageId>>,
    redirects: HashMap<AddressIndex, AddressIndex>,
    redirected_here: HashMap<AddressIndex, Vec<AddressIndex>>,
    inbound: Vec<Inbound>,
    records: Vec<Option<Record>>,
    /// Source, target, and where the target was when the link was planned.
    planned: HashMap<ChangeId, (PageId, PageId, AddressIndex)>,
    planned_in: HashMap<PageId, u32>,
    planned_out: HashMap<PageId, Vec<PageId>>,
    /// Content links that are to go, by the page that they stand on.
    removals: HashMap<PageId, Vec<Removal>>,
    depths: Depths,
    /// Links went away since the depths were computed.
    depths_stale: bool,
    changes: Changes,
    /// Counts what can change the graph as the site stands, and with the tray.
    standing: u64,
    revision: u64,
}

impl Site {
    /// A site of nothing but its entry page's address.
    pub fn new(entry: Address) -> Self {
        let mut site = Self {
            entry: AddressIndex(0),
            entry_address: entry.clone(),
            entries: Vec::new(),
            roads: RoadRules::default(),
            addresses: IndexSet::default(),
            page_at: Vec::new(),
            redirects: HashMap::new(),
            redirected_here: HashMap::new(),
            inbound: Vec::new(),
            records: Vec::new(),
            planned: HashMap::new(),
            planned_in: HashMap::new(),
            planned_out: HashMap::new(),
            removals: HashMap::new(),
            depths: Depths::default(),
            depths_stale: false,
            changes: Changes::Everything,
            standing: 0,
            revision: 0,
        };
        site.entry = site.intern(&entry);
        site
    }

    /// Takes note that the graph may have changed, the tray aside.
    fn stands_anew(&mut self) {
        self.standing += 1;
        self.revision += 1;
    }

    /// The address on which readers start.
    pub fn entry(&self) -> &Address {
        &self.entry_address
    }

    /// Sets the further pages on which readers start, and which links are roads. Depths follow with
    /// [`Site::settle`].
    pub fn set_reach(&mut self, entries: &[Address], roads: RoadRules) {
        self.stands_anew();
        self.entries = entries.iter().map(|entry| self.intern(entry)).collect();
        self.roads = roads;
        self.depths_stale = true;
    }

    /// Whether readers start on this page.
    pub fn is_entry(&self, id: PageId) -> bool {
        self.entry_pages().any(|page| page == id)
    }

    fn entry_pages(&self) -> impl Iterator<Item = PageId> {
        std::iter::once(&self.entry).chain(&self.entries).filter_map(|entry| self.page_behind(*entry))
    }

    /// Whether `address` belongs to this site: `http` and `https` of its host are one site.
    pub fn is_own(&self, address: &Address) -> bool {
        self.entry_address.same_origin(address) || self.twin_of(address).is_some()
    }

    /// The address of the site that one with the other of `http` and `https` stands for.
    fn twin_of(&self, address: &Address) -> Option<Address> {
        address.other_scheme().filter(|other| self.entry_address.same_origin(other))
    }

    /// Adds a page or replaces what is known of it, with all its links. O(its links), plus what comes within reach.
    pub fn put_page(&mut self, facts: PageFacts, links: &[OutLink]) {
        self.stands_anew();
        self.lift_removals(facts.id);
        self.take_links_off(facts.id);
        let address = self.intern(&facts.address);
        let id = facts.id;
        let slot = id.0 as usize;
        if self.records.len() <= slot {
            self.records.resize_with(slot + 1, || None);
        }
        if let Some(old) = self.records[slot].as_ref().map(|record| record.address).filter(|old| *old != address) {
            self.page_at[old.at()] = None;
        }
        if self.redirects.contains_key(&address) {
            // What led on from here leads here now.
            self.changes = Changes::Everything;
        }
        self.changes.note(id);
        self.page_at[address.at()] = Some(id);
        let (own, others): (Vec<_>, Vec<_>) = links.iter().partition(|link| self.is_own(&link.to));
        let mut kept = |links: Vec<&OutLink>| -> Vec<KeptLink> {
            let keep = |link: &OutLink| (self.intern(&link.to), link.region, link.marks);
            links.into_iter().map(keep).map(|(to, region, marks)| KeptLink { to, region, marks }).collect()
        };
        let (links, away) = (kept(own), kept(others));
        for link in &links {
            self.count(link.to, id, link.region, 1);
        }
        for link in &away {
            self.count_away(link.to, id, link.region, 1);
        }
        self.records[slot] = Some(Record { facts, address, links, away });
        self.lay_removals(id);
        self.relax_into(id);
    }

    /// Forgets a page that is no longer there. Links to it stay and lead to nothing. O(its links).
    pub fn remove_page(&mut self, id: PageId) {
        self.stands_anew();
        self.lift_removals(id);
        self.take_links_off(id);
        let Some(record) = self.records.get_mut(id.0 as usize).and_then(Option::take) else { return };
        self.page_at[record.address.at()] = None;
        self.changes = Changes::Everything;
        self.depths_stale = true;
    }

    /// Pages that link to an address, whether there is a page or not, in the order of their numbers. Redirects are not
    /// followed.
    pub fn linking_to(&self, address: &Address) -> Vec<InboundPage> {
        let inbound = self.index_of(address).map(|index| &self.inbound[index.at()].by_page);
        let mut found: Vec<_> = inbound
            .into_iter()
            .flatten()
            .map(|(page, counts)| InboundPage { page: *page, content: counts.content, boilerplate: counts.boilerplate })
            .collect();
        found.sort_by_key(|inbound| inbound.page);
        found
    }

    /// Counts a link that is taken but not yet out. O(what it brings within reach).
    pub fn plan(&mut self, change: ChangeId, source: PageId, target: PageId) {
        let Some(to) = self.record(target).map(|record| record.address) else { return };
        if self.planned.contains_key(&change) {
            return;
        }
        self.revision += 1;
        self.planned.insert(change, (source, target, to));
        self.count(to, source, Region::Content, 1);
        *self.planned_in.entry(target).or_default() += 1;
        self.planned_out.entry(source).or_default().push(target);
        self.changes.note(target);
        self.relax_by(source, target);
    }

    /// Forgets a planned change: it was dropped, or it is out and now stands in the page itself.
    pub fn unplan(&mut self, change: ChangeId) {
        self.revision += 1;
        self.unplan_removal(change);
        let Some((source, target, to)) = self.planned.remove(&change) else { return };
        self.count(to, source, Region::Content, -1);
        if let Some(count) = self.planned_in.get_mut(&target) {
            *count = count.saturating_sub(1);
        }
        if let Some(targets) = self.planned_out.get_mut(&source)
            && let Some(at) = targets.iter().position(|t| *t == target)
        {
            targets.swap_remove(at);
        }
        self.changes.note(target);
        self.lose_into(target);
    }

    /// Links of a page that lead to other sites, in the order in which they stand on it. O(1) each.
    pub fn links_away(&self, id: PageId) -> impl Iterator<Item = LinkAway<'_>> {
        let away = self.record(id).into_iter().flat_map(|record| &record.away);
        away.filter_map(|link| {
            let to = self.addresses.get_index(link.to.at())?;
            Some(LinkAway { to, region: link.region, marks: link.marks })
        })
    }

    /// How many links to addresses of the site there are on all pages. O(pages).
    pub fn link_count(&self) -> usize {
        self.records.iter().flatten().map(|record| record.links.len()).sum()
    }

    /// All pages in the order of their numbers.
    pub fn pages(&self) -> impl Iterator<Item = &PageFacts> {
        self.records.iter().flatten().map(|record| &record.facts)
    }

    /// What is known about a page. O(1).
    pub fn page(&self, id: PageId) -> Option<&PageFacts> {
        self.record(id).map(|record| &record.facts)
    }

    /// The page that a reader gets at `address`, redirects followed.
    pub fn page_at(&self, address: &Address) -> Option<PageId> {
        self.page_behind(self.index_of(address)?)
    }

    fn index_of(&self, address: &Address) -> Option<AddressIndex> {
        self.addresses.get_index_of(address).and_then(|index| u32::try_from(index).ok()).map(AddressIndex)
    }

    fn record(&self, id: PageId) -> Option<&Record> {
        self.records.get(id.0 as usize)?.as_ref()
    }

    fn intern(&mut self, address: &Address) -> AddressIndex {
        if let Some(index) = self.index_of(address) {
            return index;
        }
        let index = AddressIndex(u32::try_from(self.page_at.len()).unwrap_or(u32::MAX));
        self.addresses.insert(address.clone());
        self.page_at.push(None);
        self.inbound.push(Inbound::default());
        if let Some(twin) = self.twin_of(address) {
            // Whatever the site does with the other scheme, readers mean the same page.
            let twin = self.intern(&twin);
            self.redirects.insert(index, twin);
            self.redirected_here.entry(twin).or_default().push(index);
        }
        index
    }

    /// The page at an address after at most ten redirects.
    fn page_behind(&self, mut address: AddressIndex) -> Option<PageId> {
        for _ in 0..10 {
            if let Some(page) = self.page_at[address.at()] {
                return Some(page);
            }
            address = *self.redirects.get(&address)?;
        }
        None
    }

    fn count(&mut self, to: AddressIndex, source: PageId, region: Region, by: i32) {
        self.changes.note(source);
        if let Some(page) = self.page_behind(to) {
            self.changes.note(page);
        }
        self.count_away(to, source, region, by);
    }

    /// The same for an address of another site, on which no figure of a page hangs.
    fn count_away(&mut self, to: AddressIndex, source: PageId, region: Region, by: i32) {
        let inbound = &mut self.inbound[to.at()];
        let counts = inbound.by_page.entry(source).or_default();
        let had_content = counts.content > 0;
        let count = if region == Region::Content { &mut counts.content } else { &mut counts.boilerplate };
        *count = count.saturating_add_signed(by);
        match (had_content, counts.content > 0) {
            (false, true) => inbound.from_content += 1,
            (true, false) => inbound.from_content -= 1,
            _ => {}
        }
        if counts.content + counts.boilerplate == 0 {
            inbound.by_page.remove(&source);
        }
    }

    fn take_links_off(&mut self, id: PageId) {
        let slot = self.records.get_mut(id.0 as usize).and_then(Option::as_mut);
        let links = slot.map(|record| (std::mem::take(&mut record.links), std::mem::take(&mut record.away)));
        let Some((links, away)) = links else { return };
        self.depths_stale |= !links.is_empty();
        for link in links {
            self.count(link.to, id, link.region, -1);
        }
        for link in away {
            self.count_away(link.to, id, link.region, -1);
        }
    }
}
