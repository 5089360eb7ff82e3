//! What Today shows first: the pages on which one link gains most, and the best openings of the site.

use std::cmp::Reverse;
use std::collections::HashSet;
use std::sync::{Arc, PoisonError};

use strelm_core::openings::Opening;
use strelm_core::site::PageId;

use super::list::{MOST_LISTS, Wish};
use super::model::Model;

/// Pages that are kept of each list, and openings of the site.
const MOST_GAINFUL: usize = 5;
const MOST_BEST_OPENINGS: usize = 10;

/// Pages of a list on which one link gains most, and how many the list has.
#[derive(Debug, Clone)]
pub struct Gainful {
    pub total: usize,
    pub first: Arc<[PageId]>,
}

impl Model {
    /// Pages of a list that can be edited and have much to say come first: there one link gains most. O(pages) when first
    /// asked for after a change, else O(1).
    pub fn gainful(&self, wish: &Wish) -> Gainful {
        let mut known = self.kept.gainful.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, gainful)) = known.iter().find(|(kept, _)| kept == wish) {
            return gainful.clone();
        }
        let listed = self.listed(wish);
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
        let gainful = Gainful { total: listed.len(), first: pages.into_iter().map(|(.., page)| page).collect() };
        known.truncate(MOST_LISTS - 1);
        known.insert(0, (wish.clone(), gainful.clone()));
        gainful
    }

    /// The best openings of the whole site, one for each page and none to the same target. O(words of some pages) when first
    /// asked for after a change, else O(1).
    pub fn best_openings(&self) -> &[Opening] {
        self.kept.best_openings.get_or_init(|| {
            let mut targets = HashSet::new();
            let best = self.best_pages().iter().filter_map(|page| self.openings_out(*page).into_iter().next());
            best.filter(|opening| targets.insert(opening.target)).take(MOST_BEST_OPENINGS).collect()
        })
    }
}
