//! Pages of a model, filtered and sorted; and what is counted over all of them. Both are worked out when first asked
//! for after a change, and kept until the next.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use serde::Deserialize;
use strelm_core::language::fold;
use strelm_core::site::{Figures, PageFacts, PageId, PageKind};
use utoipa::ToSchema;

use super::broken::{BrokenLink, broken, detours};
use super::model::Model;

/// Lists that are kept at the same time; a person scrolls through one or two.
const MOST_LISTS: usize = 8;

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
    #[default]
    Depth,
}

impl Column {
    const NUMBERS: [(&'static str, Self); 7] = [
        ("words", Self::Words),
        ("links_in", Self::LinksIn),
        ("content_links_in", Self::ContentLinksIn),
        ("links_out", Self::LinksOut),
        ("links_away", Self::LinksAway),
        ("broken", Self::Broken),
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
    lists: Mutex<Vec<(Wish, Arc<[PageId]>)>>,
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

    /// Broken links by page; worked out when first asked for after a change.
    /// See [`detours`].
    pub fn detours(&self) -> &[BrokenLink] {
        self.kept.detours.get_or_init(|| detours(self))
    }

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
        let passes = |page: &PageFacts, figures: &Figures| {
            wish.only.is_none_or(|only| self.passes(only, page, figures))
                && wish.kind.is_none_or(|kind| page.kind == kind)
                && wish.ranges.iter().all(|range| self.is_in(*range, page, figures))
                && (wanted.is_empty() || self.holds_all(page, &wanted))
        };
        let mut found: Vec<_> = self.all_figures().filter(|(page, figures)| passes(page, figures)).collect();
        found.sort_by(|a, b| {
            let order = self.compare(wish.sort, a, b);
            let order = if wish.descending { order.reverse() } else { order };
            order.then_with(|| a.0.address.cmp(&b.0.address))
        });
        found.into_iter().map(|(page, _)| page.id).collect()
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
            Column::Title | Column::Address | Column::Kind | Column::Category => None,
        }
    }

    pub(super) fn holds_all(&self, page: &PageFacts, wanted: &[String]) -> bool {
        let (title, path) = (self.book.own_title(&page.title), page.address.from_root());
        let category = page.category.as_deref().unwrap_or_default();
        let text = fold(&format!("{title} {path} {category} {}", page.kind.as_str()));
        wanted.iter().all(|word| text.contains(word))
    }

    fn compare(&self, by: Column, a: &(&PageFacts, Figures), b: &(&PageFacts, Figures)) -> Ordering {
        match by {
            Column::Title => a.0.title.to_lowercase().cmp(&b.0.title.to_lowercase()),
            Column::Address => a.0.address.cmp(&b.0.address),
            Column::Kind => a.0.kind.cmp(&b.0.kind),
            Column::Category => a.0.category.cmp(&b.0.category),
            // What cannot be reached is deepest of all.
            by => {
                let number = |(page, figures): &(&PageFacts, Figures)| self.number(by, page, figures);
                number(a).unwrap_or(u32::MAX).cmp(&number(b).unwrap_or(u32::MAX))
            }
        }
    }
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
