//! Pages of a model, filtered and sorted; and what is counted over all of them. Both are worked out when first asked
//! for after a change, and kept until the next.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use serde::Deserialize;
use strelm_core::language::fold;
use strelm_core::openings::Opening;
use strelm_core::site::{Address, BetterEntry, Figures, PageFacts, PageId, PageKind};
use utoipa::ToSchema;

use super::broken::{BrokenLink, broken, detours};
use super::faulty::{Faulty, faulty};
use super::gainful::Gainful;
use super::model::Model;
use super::told::Told;

/// The best pages that are kept.
const MOST_BEST: usize = 20;

/// Lists that are kept at the same time; a person scrolls through one or two.
pub(super) const MOST_LISTS: usize = 8;

/// Clicks from the entry page from which on a page is deep, and lacks links however many lead there.
const DEEP: u32 = 4;
const LACK_OF_DEEP: f64 = 0.4;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Deserialize, ToSchema, Default)]
#[serde(rename_all = "snake_case")]
pub enum Column {
    Title,
    Address,
    Kind,
    Category,
    Words,
    LinksIn,
    ContentLinksIn,
    LinksOut,
    LinksAway,
    Broken,
    /// How many openings would lead here, and the best fit among them.
    OpeningsIn,
    BestIn,
    OpeningsOut,
    BestOut,
    /// Where an hour pays most.
    Attention,
    #[default]
    Depth,
}

impl Column {
    const NUMBERS: [(&'static str, Self); 11] = [
        ("words", Self::Words),
        ("links_in", Self::LinksIn),
        ("content_links_in", Self::ContentLinksIn),
        ("links_out", Self::LinksOut),
        ("links_away", Self::LinksAway),
        ("broken", Self::Broken),
        ("openings_in", Self::OpeningsIn),
        ("best_in", Self::BestIn),
        ("openings_out", Self::OpeningsOut),
        ("best_out", Self::BestOut),
        ("depth", Self::Depth),
    ];
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Only {
    /// Links in = 0.
    Orphans,
    /// Not within reach of the entry pages.
    Unreachable,
    /// Pages with text whose content leads to no other page.
    DeadEnds,
    /// Pages with links that lead nowhere.
    Broken,
    /// Pages that the latest reading found for the first time.
    Fresh,
    /// Those of them to which no content links.
    FreshUnlinked,
    /// Pages with links in the tray, on them or to them.
    InTray,
    /// Pages to which openings lead.
    Offered,
}

/// A column's figure within bounds. Pages that cannot be reached have no depth and pass only without an upper bound.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Range {
    pub column: Column,
    pub least: Option<u32>,
    pub most: Option<u32>,
}

impl Range {
    /// Reads `words:100..500`, `links_in:..3`, `depth:4..`; several with commas between them. `None` when it is none.
    pub fn parse_all(text: &str) -> Option<Vec<Self>> {
        let bound = |text: &str| match text {
            "" => Some(None),
            text => text.parse().ok().map(Some),
        };
        let one = |text: &str| {
            let (name, bounds) = text.split_once(':')?;
            let (least, most) = bounds.split_once("..")?;
            let column = Column::NUMBERS.iter().find(|(known, _)| *known == name)?.1;
            Some(Self { column, least: bound(least)?, most: bound(most)? })
        };
        text.split(',').filter(|part| !part.is_empty()).map(one).collect()
    }
}

/// A page on its way to its place in a list.
struct Sorted<'p> {
    key: SortKey<'p>,
    page: &'p PageFacts,
}

/// What a column is sorted by, worked out once for each page; those of one list are all of one kind.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
enum SortKey<'p> {
    Title(String),
    Address(&'p Address),
    Kind(PageKind),
    Category(Option<String>),
    Number(u32),
}

/// Which pages, in which order.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Wish {
    /// Words that title, address, category or kind must hold, in any order.
    pub text: String,
    pub only: Option<Only>,
    pub kind: Option<PageKind>,
    pub ranges: Vec<Range>,
    pub sort: Column,
    pub descending: bool,
}

/// Counts over the whole site. Entry pages need no link to be found, so they are no orphans.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Totals {
    pub pages: usize,
    pub orphans: usize,
    pub unreachable: usize,
    pub dead_ends: usize,
    /// Links to nothing, and to places that are not there.
    pub broken_links: usize,
    pub broken_fragments: usize,
    pub fresh: usize,
    pub fresh_unlinked: usize,
}

/// What is kept until the next change.
#[derive(Default)]
pub struct Kept {
    totals: OnceLock<Totals>,
    broken: OnceLock<BTreeMap<PageId, Vec<BrokenLink>>>,
    detours: OnceLock<Vec<BrokenLink>>,
    better_entry: OnceLock<Option<BetterEntry>>,
    faulty: OnceLock<Vec<Faulty>>,
    detoured: OnceLock<Vec<Faulty>>,
    best: OnceLock<Vec<PageId>>,
    pub(super) best_openings: OnceLock<Vec<Opening>>,
    lists: Mutex<Vec<(Wish, Arc<[PageId]>)>>,
    pub(super) gainful: Mutex<Vec<(Wish, Gainful)>>,
}

impl Model {
    /// O(pages) when first asked for after a change, else O(1).
    pub fn totals(&self) -> Totals {
        *self.kept.totals.get_or_init(|| {
            let mut totals = Totals::default();
            for (page, figures) in self.all_figures() {
                let has = |only| usize::from(self.passes(only, page, &figures));
                totals.pages += 1;
                totals.orphans += has(Only::Orphans);
                totals.unreachable += has(Only::Unreachable);
                totals.dead_ends += has(Only::DeadEnds);
                totals.fresh += has(Only::Fresh);
                totals.fresh_unlinked += has(Only::FreshUnlinked);
            }
            for link in self.broken().values().flatten() {
                match link.fragment {
                    None => totals.broken_links += (link.content + link.furniture) as usize,
                    Some(_) => totals.broken_fragments += 1,
                }
            }
            totals
        })
    }

    /// See [`detours`].
    pub fn detours(&self) -> &[BrokenLink] {
        self.kept.detours.get_or_init(|| detours(self))
    }

    /// See [`strelm_core::site::Site::better_entry`].
    pub fn better_entry(&self) -> Option<BetterEntry> {
        *self.kept.better_entry.get_or_init(|| self.site.better_entry())
    }

    /// Broken links by what they lead to, the most gainful first. See [`faulty`].
    pub fn faulty(&self) -> &[Faulty] {
        self.kept.faulty.get_or_init(|| faulty(self, self.broken().values().flatten()))
    }

    /// Detours in the same manner.
    pub fn detoured(&self) -> &[Faulty] {
        self.kept.detoured.get_or_init(|| faulty(self, self.detours().iter()))
    }

    /// Broken links by page; worked out when first asked for after a change.
    pub fn broken(&self) -> &BTreeMap<PageId, Vec<BrokenLink>> {
        self.kept.broken.get_or_init(|| broken(self))
    }

    /// How many links on a page lead nowhere.
    pub fn broken_on(&self, page: PageId) -> u32 {
        self.broken().get(&page).map_or(0, |links| links.iter().map(|link| link.content + link.furniture).sum())
    }

    /// O(pages × log pages) when first asked for after a change, else O(1).
    pub fn listed(&self, wish: &Wish) -> Arc<[PageId]> {
        let mut lists = self.kept.lists.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, list)) = lists.iter().find(|(kept, _)| kept == wish) {
            return Arc::clone(list);
        }
        let list = self.list(wish);
        lists.truncate(MOST_LISTS - 1);
        lists.insert(0, (wish.clone(), Arc::clone(&list)));
        list
    }

    fn list(&self, wish: &Wish) -> Arc<[PageId]> {
        let wanted: Vec<_> = wish.text.split_whitespace().map(fold).collect();
        let all_told = (!wanted.is_empty()).then(|| self.all_told());
        let is_told = |page: &PageFacts| {
            let told = |all: &Arc<HashMap<PageId, Told>>| all.get(&page.id).is_some_and(|told| told.holds_all(&wanted));
            all_told.as_ref().is_none_or(told)
        };
        let passes = |page: &PageFacts, figures: &Figures| {
            wish.only.is_none_or(|only| self.passes(only, page, figures))
                && wish.kind.is_none_or(|kind| page.kind == kind)
                && wish.ranges.iter().all(|range| self.is_in(*range, page, figures))
                && is_told(page)
        };
        let mut found: Vec<_> = self
            .all_figures()
            .filter(|(page, figures)| passes(page, figures))
            .map(|(page, figures)| Sorted { key: self.sort_key(wish.sort, page, &figures), page })
            .collect();
        found.sort_by(|a, b| {
            let order = a.key.cmp(&b.key);
            let order = if wish.descending { order.reverse() } else { order };
            order.then_with(|| a.page.address.cmp(&b.page.address))
        });
        found.into_iter().map(|sorted| sorted.page.id).collect()
    }

    fn all_figures(&self) -> impl Iterator<Item = (&PageFacts, Figures)> {
        self.site.pages().filter_map(|page| Some((page, self.site.figures(page.id)?)))
    }

    fn passes(&self, only: Only, page: &PageFacts, figures: &Figures) -> bool {
        let is_file = page.kind == PageKind::File;
        match only {
            Only::Orphans => figures.is_orphan() && !self.site.is_entry(page.id),
            Only::Unreachable => figures.depth.is_none(),
            Only::DeadEnds => figures.links_out == 0 && page.words > 0 && !is_file,
            Only::Broken => self.broken().contains_key(&page.id),
            Only::Fresh => self.is_fresh(page.id),
            Only::FreshUnlinked => self.is_fresh(page.id) && figures.content_links_in == 0 && !is_file,
            Only::Offered => self.tally(page.id).inbound > 0,
            Only::InTray => figures.planned_in + figures.planned_out > 0,
        }
    }

    fn is_in(&self, range: Range, page: &PageFacts, figures: &Figures) -> bool {
        match self.number(range.column, page, figures) {
            Some(number) => {
                range.least.is_none_or(|least| number >= least) && range.most.is_none_or(|most| number <= most)
            }
            None => range.most.is_none(),
        }
    }

    fn number(&self, column: Column, page: &PageFacts, figures: &Figures) -> Option<u32> {
        match column {
            Column::Words => Some(page.words),
            Column::LinksIn => Some(figures.links_in),
            Column::ContentLinksIn => Some(figures.content_links_in),
            Column::LinksOut => Some(figures.links_out),
            Column::LinksAway => Some(figures.links_away),
            Column::Broken => Some(self.broken_on(page.id)),
            Column::Depth => figures.depth,
            Column::OpeningsIn => Some(self.tally(page.id).inbound),
            Column::BestIn => Some(whole(self.tally(page.id).best_in)),
            Column::OpeningsOut => Some(self.tally(page.id).outbound),
            Column::BestOut => Some(whole(self.tally(page.id).best_out)),
            Column::Attention => Some(whole(Some(self.attention(page, figures) * 100.0))),
            Column::Title | Column::Address | Column::Kind | Column::Category => None,
        }
    }

    /// How much an hour on this page pays, 0 to 100: how badly it lacks links, times the chance that there are good
    /// openings for them; less for pages with little to say.
    pub fn attention(&self, page: &PageFacts, figures: &Figures) -> f64 {
        if page.kind == PageKind::File || self.site.is_entry(page.id) {
            return 0.0;
        }
        let is_deep = figures.depth.is_some_and(|depth| depth >= DEEP);
        let lack = f64::from(figures.lack()).max(if is_deep { LACK_OF_DEEP } else { 0.0 });
        let tally = self.tally(page.id);
        let dead_end = if figures.links_out == 0 { 0.15 * tally.best_out.unwrap_or_default() / 100.0 } else { 0.0 };
        let says = 0.4 + 0.6 * (f64::from(page.words) / 300.0).min(1.0);
        100.0 * says * (lack * tally.hope_in + dead_end).min(1.0)
    }

    /// The page whose best opening is best, and so on: no page and no target twice. O(pages) once after a change.
    pub fn best_pages(&self) -> &[PageId] {
        self.kept.best.get_or_init(|| {
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
        })
    }

    fn sort_key<'p>(&self, by: Column, page: &'p PageFacts, figures: &Figures) -> SortKey<'p> {
        match by {
            // As it is shown, without case and accents.
            Column::Title => SortKey::Title(fold(self.book.own_title(&page.title))),
            Column::Address => SortKey::Address(&page.address),
            Column::Kind => SortKey::Kind(page.kind),
            Column::Category => SortKey::Category(page.category.as_deref().map(fold)),
            // What cannot be reached is deepest of all.
            by => SortKey::Number(self.number(by, page, figures).unwrap_or(u32::MAX)),
        }
    }
}

/// A fit as it is shown, without what comes after the point.
fn whole(fit: Option<f64>) -> u32 {
    // Between 0 and 10,000, whatever was worked out.
    fit.unwrap_or_default().round().clamp(0.0, 10_000.0) as u32
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranges_are_read_or_refused_as_a_whole() {
        let range = |column, least, most| Range { column, least, most };
        let read = Range::parse_all("words:100..500,links_in:..3,depth:4..");
        let wanted = vec![
            range(Column::Words, Some(100), Some(500)),
            range(Column::LinksIn, None, Some(3)),
            range(Column::Depth, Some(4), None),
        ];
        assert_eq!(read, Some(wanted));
        assert_eq!(Range::parse_all(""), Some(Vec::new()));
        for wrong in ["words", "words:1", "title:1..2", "words:a..2", "words:1..2,x:..", "words:-1..2"] {
            assert_eq!(Range::parse_all(wrong), None, "{wrong}");
        }
    }
}
