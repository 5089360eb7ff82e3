//! Pages of a model, filtered and sorted.

use std::cmp::Reverse;
use std::sync::Arc;

use strelm_core::audit::{BrokenByPage, Lacking, attention, broken_on};
use strelm_core::language::fold;
use strelm_core::site::{Address, Figures, PageFacts, PageId, PageKind};

use super::answers::Gainful;
use super::columns::Column;
use super::kept::Revisions;
use super::model::Model;
use super::query::{Only, PageQuery};
use super::told::Told;

/// Pages that are kept of what gains most.
const MOST_GAINFUL: usize = 5;

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

impl Model {
    /// O(pages × log pages) when first asked for after a change of what the list depends on, else O(1).
    pub fn listed(&self, query: &PageQuery) -> Arc<Vec<PageId>> {
        self.answers.lists.get(query, self.list_depends_on(query), || self.list(query))
    }

    /// Pages of a list that can be edited and have much to say come first: there one link gains most. O(pages) when first
    /// asked for after a change of what the list depends on, else O(1).
    pub fn gainful(&self, query: &PageQuery) -> Arc<Gainful> {
        self.answers.gainful.get(query, self.list_depends_on(query), || {
            let listed = self.listed(query);
            let gain = |id: &PageId| {
                let (page, figures) = (self.site.page(*id)?, self.site.figures(*id)?);
                Some((!page.editable, figures.links_in, Reverse(page.words), *id))
            };
            let mut pages: Vec<_> = listed.iter().filter_map(gain).collect();
            let most = pages.len().min(MOST_GAINFUL);
            if most < pages.len() {
                pages.select_nth_unstable(most);
            }
            pages.truncate(most);
            pages.sort_unstable();
            Gainful { total: listed.len(), first: pages.into_iter().map(|(.., page)| page).collect() }
        })
    }

    fn list_depends_on(&self, query: &PageQuery) -> Revisions {
        let at = self.revisions();
        let tells_of_openings = query.only == Some(Only::Offered)
            || query.sort.tells_of_openings()
            || query.ranges.iter().any(|range| range.column.tells_of_openings());
        Revisions {
            reading: at.reading,
            tallies: if tells_of_openings { at.tallies } else { 0 },
            soundings: if query.tells_of_soundings() { at.soundings } else { 0 },
            ..self.at_figures()
        }
    }

    fn list(&self, query: &PageQuery) -> Vec<PageId> {
        let wanted: Vec<_> = query.text.split_whitespace().map(fold).collect();
        let all_told = (!wanted.is_empty()).then(|| self.all_told());
        let is_told = |page: &PageFacts| {
            let told = |told: &Told| told.holds_all(&wanted);
            all_told.as_ref().is_none_or(|all| all.get(&page.id).is_some_and(told))
        };
        let broken = self.broken();
        let passes = |page: &PageFacts, figures: &Figures| {
            query.only.is_none_or(|only| self.passes(only, page, figures))
                && query.kind.is_none_or(|kind| page.kind == kind)
                && query.category.as_deref().is_none_or(|category| page.category.as_deref() == Some(category))
                && query.ranges.iter().all(|range| range.holds(self.number(range.column, page, figures, &broken)))
                && is_told(page)
        };
        let mut found: Vec<_> = self
            .all_figures()
            .filter(|(page, figures)| passes(page, figures))
            .map(|(page, figures)| Sorted { key: self.sort_key(query.sort, page, &figures, &broken), page })
            .collect();
        found.sort_by(|a, b| {
            let order = a.key.cmp(&b.key);
            let order = if query.descending { order.reverse() } else { order };
            order.then_with(|| a.page.address.cmp(&b.page.address))
        });
        found.into_iter().map(|sorted| sorted.page.id).collect()
    }

    pub(crate) fn all_figures(&self) -> impl Iterator<Item = (&PageFacts, Figures)> {
        self.site.pages().filter_map(|page| Some((page, self.site.figures(page.id)?)))
    }

    pub(crate) fn passes(&self, only: Only, page: &PageFacts, figures: &Figures) -> bool {
        let lacks = |lacking: Lacking| lacking.is_true_of(&self.site, page, figures);
        match only {
            Only::Orphans => lacks(Lacking::LinksIn),
            Only::Unreachable => lacks(Lacking::AWayThere),
            Only::DeadEnds => lacks(Lacking::LinksOut),
            Only::Broken => self.broken().contains_key(&page.id),
            Only::Fresh => self.is_fresh(page.id),
            Only::FreshUnlinked => {
                self.is_fresh(page.id) && figures.content_links_in == 0 && page.kind != PageKind::File
            }
            Only::Offered => self.tally(page.id).inbound > 0,
            Only::InTray => figures.planned_in + figures.planned_out > 0,
            Only::Threads => self.soundings().is_some_and(|soundings| soundings.thread(page.id).is_some()),
            Only::Islands => self.soundings().is_some_and(|soundings| soundings.island(page.id).is_some()),
        }
    }

    fn number(&self, column: Column, page: &PageFacts, figures: &Figures, broken: &BrokenByPage) -> Option<u32> {
        match column {
            Column::Words => Some(page.words),
            Column::LinksIn => Some(figures.links_in),
            Column::ContentLinksIn => Some(figures.content_links_in),
            Column::LinksOut => Some(figures.links_out),
            Column::LinksAway => Some(figures.links_away),
            Column::Broken => Some(broken_on(broken, page.id)),
            Column::Depth => figures.depth,
            Column::OpeningsIn => Some(self.tally(page.id).inbound),
            Column::BestIn => Some(whole(self.tally(page.id).best_in)),
            Column::OpeningsOut => Some(self.tally(page.id).outbound),
            Column::BestOut => Some(whole(self.tally(page.id).best_out)),
            Column::Attention => Some(whole(Some(self.attention(page, figures) * 100.0))),
            Column::Equity => self.equity_of(page.id).map(|equity| whole(Some(equity * 100.0))),
            Column::Title | Column::Address | Column::Kind | Column::Category => None,
        }
    }

    /// See [`attention`].
    pub fn attention(&self, page: &PageFacts, figures: &Figures) -> f64 {
        attention(&self.site, page, figures, &self.tally(page.id))
    }

    fn sort_key<'p>(&self, by: Column, page: &'p PageFacts, figures: &Figures, broken: &BrokenByPage) -> SortKey<'p> {
        match by {
            // As it is shown, without case and accents.
            Column::Title => SortKey::Title(fold(self.book.own_title(&page.title))),
            Column::Address => SortKey::Address(&page.address),
            Column::Kind => SortKey::Kind(page.kind),
            Column::Category => SortKey::Category(page.category.as_deref().map(fold)),
            // As long as nothing is known of it, there is none.
            Column::Equity => SortKey::Number(self.number(by, page, figures, broken).unwrap_or_default()),
            // What cannot be reached is deepest of all.
            by => SortKey::Number(self.number(by, page, figures, broken).unwrap_or(u32::MAX)),
        }
    }
}

/// A figure as it is sorted, without what comes after the point.
fn whole(figure: Option<f64>) -> u32 {
    // Not negative, whatever was worked out.
    figure.unwrap_or_default().round().clamp(0.0, 1e9) as u32
}
