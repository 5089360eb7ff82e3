//! Mentions of hidden sites as rows to learn from.

use std::collections::HashMap;

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::openings::learning::{HiddenLink, PlaceRow, rows_of};
use strelm_core::site::PageId;

use crate::hidden::HiddenSite;

/// All mentions on the pages of which links were hidden. O(what judging costs).
pub fn rows(site: &HiddenSite) -> Vec<PlaceRow> {
    let mut hidden: HashMap<PageId, Vec<HiddenLink>> = HashMap::new();
    for ((source, target), spans) in &site.hidden {
        let links = spans.iter().map(|words| HiddenLink { target: *target, words: *words });
        hidden.entry(*source).or_default().extend(links);
    }
    let of_page = |source: &PageId| {
        let hidden = hidden.get(source).map_or(&[][..], Vec::as_slice);
        rows_of(&site.corpus.site, &site.corpus.book, *source, hidden, |_| true)
    };
    site.sources.par_iter().flat_map_iter(of_page).collect()
}
