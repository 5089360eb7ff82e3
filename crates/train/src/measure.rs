//! How well links are found again: the same figures as the evaluation uses.

use std::collections::HashMap;

use strelm_core::openings::Ensemble;
use strelm_core::openings::learning::PlaceRow;
use strelm_core::site::PageId;

use crate::hidden::HiddenSite;

/// How well openings found what was hidden.
#[derive(Debug, Clone, Copy, Default)]
pub struct TrialFigures {
    pub recall_at_10: f64,
    pub precision_at_5: f64,
    pub inbound_at_10: f64,
    /// Of the right ones among the first ten, those whose words overlap the author's.
    pub words: f64,
    /// Pairs that are among the mentions at all.
    pub pool: f64,
}

/// TrialFigures of a site. O(rows log rows).
pub fn measure(site: &HiddenSite, rows: &[PlaceRow], ensemble: &Ensemble) -> TrialFigures {
    let mut best: HashMap<(PageId, PageId), (f32, bool)> = HashMap::new();
    for row in rows {
        let odds = ensemble.log_odds(&row.features);
        let known = best.entry((row.source, row.target)).or_insert((f32::MIN, false));
        if odds > known.0 {
            *known = (odds, row.is_link);
        }
    }
    let mut by_source: HashMap<PageId, Vec<(f32, PageId, bool)>> = HashMap::new();
    let mut by_target: HashMap<PageId, Vec<(f32, PageId)>> = HashMap::new();
    for ((source, target), (odds, is_link)) in &best {
        by_source.entry(*source).or_default().push((*odds, *target, *is_link));
    }
    let mut wanted: HashMap<PageId, usize> = HashMap::new();
    let mut sources_of: HashMap<PageId, usize> = HashMap::new();
    for (source, target) in site.hidden.keys() {
        *wanted.entry(*source).or_default() += 1;
        *sources_of.entry(*target).or_default() += 1;
    }
    let mut figures = TrialFigures::default();
    let (mut right, mut worded, mut given) = (0.0, 0.0, 0.0);
    for source in &site.sources {
        let mut found = by_source.remove(source).unwrap_or_default();
        found.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let is_right = |target: &PageId| site.hidden.contains_key(&(*source, *target));
        let all = wanted[source] as f64;
        let hits = found.iter().take(10).filter(|(_, target, _)| is_right(target)).count() as f64;
        figures.recall_at_10 += hits / all;
        figures.pool += found.iter().filter(|(_, target, _)| is_right(target)).count() as f64 / all;
        if !found.is_empty() {
            given += 1.0;
            let first = found.len().min(5) as f64;
            figures.precision_at_5 +=
                found.iter().take(5).filter(|(_, target, _)| is_right(target)).count() as f64 / first;
        }
        right += hits;
        worded += found.iter().take(10).filter(|(_, target, is_link)| is_right(target) && *is_link).count() as f64;
        for (odds, target, _) in found.into_iter().take(50) {
            by_target.entry(target).or_default().push((odds, *source));
        }
    }
    for (target, all) in &sources_of {
        let mut found = by_target.remove(target).unwrap_or_default();
        found.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let hits = found.iter().take(10).filter(|(_, source)| site.hidden.contains_key(&(*source, *target))).count();
        figures.inbound_at_10 += hits as f64 / *all as f64;
    }
    let sources = (site.sources.len() as f64).max(1.0);
    figures.recall_at_10 /= sources;
    figures.pool /= sources;
    figures.precision_at_5 /= f64::max(given, 1.0);
    figures.words = worded / f64::max(right, 1.0);
    figures.inbound_at_10 /= (sources_of.len() as f64).max(1.0);
    figures
}

/// For each pair of pages of a site what its best place is worth, as log-odds, and whether an author linked the pair.
pub fn pairs(site: &HiddenSite, rows: &[PlaceRow], ensemble: &Ensemble) -> Vec<(f32, bool)> {
    let mut best: HashMap<(PageId, PageId), f32> = HashMap::new();
    for row in rows {
        let known = best.entry((row.source, row.target)).or_insert(f32::MIN);
        *known = known.max(ensemble.log_odds(&row.features));
    }
    let mut pairs: Vec<_> = best.into_iter().map(|(pair, odds)| (odds, site.hidden.contains_key(&pair))).collect();
    // In order, so that every run adds up alike.
    pairs.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
    pairs
}

/// Of what is promised with a chance in each tenth, how many pairs there are and how many of them an author linked.
pub fn reliability(pairs: impl Iterator<Item = (f32, bool)>) -> [(usize, usize); 10] {
    let mut tenths = [(0, 0); 10];
    for (odds, is_linked) in pairs {
        let chance = 1.0 / (1.0 + f64::from(-odds).exp());
        let tenth = &mut tenths[((chance * 10.0) as usize).min(9)];
        tenth.0 += 1;
        tenth.1 += usize::from(is_linked);
    }
    tenths
}
