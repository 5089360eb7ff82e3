//! Pages of a model, filtered and sorted; and what is counted over all of them. Both are worked out when first asked
//! for after a change, and kept until the next.

use std::cmp::Ordering;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use serde::Deserialize;
use strelm_core::language::fold;
use strelm_core::site::{Figures, PageFacts, PageId};
use utoipa::ToSchema;

use super::model::Model;

/// Lists that are kept at the same time; a person scrolls through one or two.
const MOST_LISTS: usize = 8;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema, Default)]
#[serde(rename_all = "snake_case")]
pub enum SortBy {
    Title,
    Address,
    Kind,
    Category,
    Words,
    LinksIn,
    LinksOut,
    LinksAway,
    #[default]
    Depth,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Only {
    /// Links in = 0.
    Orphans,
    /// Not within reach of the entry page.
    Unreachable,
}

/// Which pages, in which order.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Wish {
    /// Words that title, address, category or kind must hold, in any order.
    pub text: String,
    pub only: Option<Only>,
    pub sort: SortBy,
    pub descending: bool,
}

/// Counts over the whole site. The entry page needs no link to be found, so it is no orphan.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Totals {
    pub pages: usize,
    pub orphans: usize,
    pub unreachable: usize,
}

/// What is kept until the next change.
#[derive(Default)]
pub struct Kept {
    totals: OnceLock<Totals>,
    lists: Mutex<Vec<(Wish, Arc<[PageId]>)>>,
}

impl Model {
    /// O(pages) when first asked for after a change, else O(1).
    pub fn totals(&self) -> Totals {
        *self.kept.totals.get_or_init(|| {
            let mut totals = Totals::default();
            for (page, figures) in self.all_figures() {
                totals.pages += 1;
                totals.orphans += usize::from(self.is_orphan(page, &figures));
                totals.unreachable += usize::from(figures.depth.is_none());
            }
            totals
        })
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
        let passes = |page: &PageFacts, figures: &Figures| match wish.only {
            Some(Only::Orphans) => self.is_orphan(page, figures),
            Some(Only::Unreachable) => figures.depth.is_none(),
            None => true,
        };
        let mut found: Vec<_> = self
            .all_figures()
            .filter(|(page, figures)| passes(page, figures) && (wanted.is_empty() || self.holds_all(page, &wanted)))
            .collect();
        found.sort_by(|a, b| {
            let order = compare(wish.sort, a, b);
            let order = if wish.descending { order.reverse() } else { order };
            order.then_with(|| a.0.address.cmp(&b.0.address))
        });
        found.into_iter().map(|(page, _)| page.id).collect()
    }

    fn all_figures(&self) -> impl Iterator<Item = (&PageFacts, Figures)> {
        self.site.pages().filter_map(|page| Some((page, self.site.figures(page.id)?)))
    }

    fn is_orphan(&self, page: &PageFacts, figures: &Figures) -> bool {
        figures.is_orphan() && self.site.page_at(self.site.entry()) != Some(page.id)
    }

    fn holds_all(&self, page: &PageFacts, wanted: &[String]) -> bool {
        let (title, path) = (self.book.own_title(&page.title), page.address.from_root());
        let category = page.category.as_deref().unwrap_or_default();
        let text = fold(&format!("{title} {path} {category} {}", page.kind.as_str()));
        wanted.iter().all(|word| text.contains(word))
    }
}

fn compare(by: SortBy, a: &(&PageFacts, Figures), b: &(&PageFacts, Figures)) -> Ordering {
    match by {
        SortBy::Title => a.0.title.to_lowercase().cmp(&b.0.title.to_lowercase()),
        SortBy::Address => a.0.address.cmp(&b.0.address),
        SortBy::Kind => a.0.kind.cmp(&b.0.kind),
        SortBy::Category => a.0.category.cmp(&b.0.category),
        SortBy::Words => a.0.words.cmp(&b.0.words),
        SortBy::LinksIn => a.1.links_in.cmp(&b.1.links_in),
        SortBy::LinksOut => a.1.links_out.cmp(&b.1.links_out),
        SortBy::LinksAway => a.1.links_away.cmp(&b.1.links_away),
        // What cannot be reached is deepest of all.
        SortBy::Depth => a.1.depth.unwrap_or(u32::MAX).cmp(&b.1.depth.unwrap_or(u32::MAX)),
    }
}
