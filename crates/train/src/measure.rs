//! How well links are found again: the same figures as the evaluation uses.

use std::collections::{BTreeMap, HashMap};

use strelm_core::openings::{Ensemble, Promise};
use strelm_core::site::PageId;

use crate::hidden::HiddenSite;
use crate::rows::Row;

#[derive(Debug, Clone, Copy, Default)]
pub struct Figures {
    pub recall_at_10: f64,
    pub precision_at_5: f64,
    pub inbound_at_10: f64,
    /// Of the right ones among the first ten, those whose words overlap the author's.
    pub words: f64,
    /// Pairs that are among the mentions at all.
    pub pool: f64,
}

/// Figures of a site. O(rows log rows).
pub fn measure(site: &HiddenSite, rows: &[Row], ensemble: &Ensemble) -> Figures {
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
    let mut figures = Figures::default();
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
pub fn pairs(site: &HiddenSite, rows: &[Row], ensemble: &Ensemble) -> Vec<(f32, bool)> {
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

/// Places of a line, in log-odds: so many apart.
const STEP: f32 = 0.75;

/// Pairs of pages that a place of the line needs at least, on all sites together.
const LEAST_PAIRS: f64 = 60.0;

/// What log-odds turn out to be: a rising line through the shares of pairs that authors linked, in which each site counts
/// alike (isotonic regression by pooling neighbours that fall; Zadrozny and Elkan, “Transforming classifier scores into
/// accurate multiclass probability estimates”, 2002). O(pairs).
pub fn calibration(sites: &[&[(f32, bool)]]) -> Vec<Promise> {
    // By step: how many pairs there are, and by weight all and the linked ones, and where they lie.
    let mut steps: BTreeMap<i32, [f64; 4]> = BTreeMap::new();
    let most = sites.iter().map(|pairs| pairs.len()).max().unwrap_or_default() as f64;
    for pairs in sites.iter().filter(|pairs| !pairs.is_empty()) {
        let weight = most / pairs.len() as f64;
        for (odds, is_linked) in *pairs {
            let step = steps.entry((odds / STEP).floor() as i32).or_default();
            let linked = if *is_linked { weight } else { 0.0 };
            for (sum, more) in step.iter_mut().zip([1.0, weight, linked, weight * f64::from(*odds)]) {
                *sum += more;
            }
        }
    }
    let mut pools: Vec<[f64; 4]> = Vec::new();
    for step in steps.into_values() {
        pools.push(step);
        let share = |pool: &[f64; 4]| pool[2] / pool[1];
        while let [.., before, last] = pools.as_mut_slice() {
            if share(before) < share(last) && before[0] >= LEAST_PAIRS {
                break;
            }
            for (sum, more) in before.iter_mut().zip(*last) {
                *sum += more;
            }
            pools.pop();
        }
    }
    let odds_of = |pool: &[f64; 4]| {
        // As if there had been half a pair more of each kind.
        let share = (pool[2] / pool[1] * pool[0] + 0.5) / (pool[0] + 1.0);
        (share / (1.0 - share)).ln() as f32
    };
    let shortened = |value: f32| (value * 1e3).round() / 1e3;
    let mut line: Vec<Promise> = Vec::new();
    for pool in &pools {
        let place = Promise { said: shortened((pool[3] / pool[1]) as f32), kept: shortened(odds_of(pool)) };
        if line.last().is_none_or(|before| before.said < place.said && before.kept <= place.kept) {
            line.push(place);
        }
    }
    line
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_promises_too_much_is_brought_down_to_what_is_kept() {
        let mut random = fastrand::Rng::with_seed(7);
        let mut pairs = Vec::new();
        for _ in 0..20_000 {
            let truth = random.f32() * 6.0 - 4.0;
            let is_linked = random.f32() < 1.0 / (1.0 + (-truth).exp());
            // It promises twice as much, and one more.
            pairs.push((truth * 2.0 + 1.0, is_linked));
        }
        let ensemble = Ensemble::new(0.0, Ensemble::shipped().unwrap().ranges(), Default::default());
        let ensemble = ensemble.promising(calibration(&[&pairs]));
        let tenths = reliability(pairs.iter().map(|(odds, linked)| (ensemble.promise(*odds).0, *linked)));
        for (tenth, (all, linked)) in tenths.into_iter().enumerate().filter(|(_, (all, _))| *all > 500) {
            let share = linked as f64 / all as f64 * 10.0;
            assert!(share > tenth as f64 - 0.5 && share < tenth as f64 + 1.5, "{tenth}: {share}");
        }
    }
}
