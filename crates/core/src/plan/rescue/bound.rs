//! How few pages any plan must edit: a bound by which a plan is known to be good.

use rustc_hash::FxHashMap;

use super::problem::{FAR, Problem};

/// Rounds in which the bound is raised.
const ROUNDS: usize = 400;

/// So many demands that candidates enter a group of pages are looked at, the largest groups first.
const MOST_GROUPS: usize = 2000;

/// So many candidates from some list have to be chosen.
struct Demand {
    of: Vec<u32>,
    least: u32,
}

/// At least so many pages are edited by every plan that helps these pages. O(rounds · (candidates + demands)).
///
/// Each page that lacks links demands so many of the candidates that lead to it; each page that is out of reach demands
/// one that enters the pages from which it can be reached. Without regard to sentences and depths, that is a covering whose
/// linear relaxation is solved from below by Lagrangian multipliers and subgradient steps: Held and Karp, “The
/// traveling-salesman problem and minimum spanning trees” (1971). With multipliers given, each page is edited when its best
/// links are worth more than one page.
pub(super) fn least_edited(problem: &Problem<'_>, helped: &[u32]) -> u32 {
    let demands = demands(problem, helped);
    if demands.is_empty() {
        return 0;
    }
    let mut demanded_by: Vec<Vec<u32>> = vec![Vec::new(); problem.candidates().len()];
    for (number, demand) in (0u32..).zip(&demands) {
        demand.of.iter().for_each(|at| demanded_by[*at as usize].push(number));
    }
    let sources: Vec<u32> = problem.sources().collect();
    let mut price = vec![0.5f64; demands.len()];
    let (mut best, mut step) = (0.0f64, 1.0f64);
    let mut without_gain = 0;
    for _ in 0..ROUNDS {
        let mut bound: f64 = demands.iter().zip(&price).map(|(demand, price)| price * f64::from(demand.least)).sum();
        let mut met = vec![0.0f64; demands.len()];
        for page in &sources {
            let (worth, chosen) = best_links(problem, *page, &demanded_by, &price);
            if worth > 1.0 {
                bound += 1.0 - worth;
                for at in chosen {
                    demanded_by[at as usize].iter().for_each(|demand| met[*demand as usize] += 1.0);
                }
            }
        }
        if bound > best + 1e-6 {
            (best, without_gain) = (bound, 0);
        } else {
            without_gain += 1;
            if without_gain == 15 {
                (step, without_gain) = (step / 2.0, 0);
            }
        }
        let lacking: Vec<f64> = demands.iter().zip(&met).map(|(demand, met)| f64::from(demand.least) - met).collect();
        let norm: f64 = lacking.iter().map(|lacking| lacking * lacking).sum();
        if norm == 0.0 || step < 1e-4 {
            break;
        }
        let size = step * (1.0 + best * 0.05) / norm.sqrt();
        price.iter_mut().zip(&lacking).for_each(|(price, lacking)| *price = (*price + size * lacking).max(0.0));
    }
    // What is a hair above a whole number may be that number.
    (best - 1e-6).ceil().max(0.0) as u32
}

/// The links of a page that are worth most together, one to each other page, and what they are worth.
fn best_links(problem: &Problem<'_>, page: u32, demanded_by: &[Vec<u32>], price: &[f64]) -> (f64, Vec<u32>) {
    let mut worth: FxHashMap<u32, (f64, u32)> = FxHashMap::default();
    for at in problem.on(page) {
        let of_link: f64 = demanded_by[at as usize].iter().map(|demand| price[*demand as usize]).sum();
        let known = worth.entry(problem.candidate(at).to).or_insert((of_link, at));
        if of_link > known.0 {
            *known = (of_link, at);
        }
    }
    let mut links: Vec<(f64, u32)> = worth.into_values().filter(|(worth, _)| *worth > 0.0).collect();
    links.sort_by(|one, other| other.0.total_cmp(&one.0).then(one.1.cmp(&other.1)));
    links.truncate(problem.room(page));
    (links.iter().map(|(worth, _)| worth).sum(), links.into_iter().map(|(_, at)| at).collect())
}

fn demands(problem: &Problem<'_>, helped: &[u32]) -> Vec<Demand> {
    let lacking = helped.iter().filter(|page| problem.lacks(**page) > 0);
    let mut demands: Vec<Demand> =
        lacking.map(|page| Demand { of: problem.to(*page).to_vec(), least: problem.lacks(*page) }).collect();
    let mut known: Vec<Vec<u32>> = Vec::new();
    for page in helped.iter().filter(|page| problem.depth[**page as usize] == FAR).take(MOST_GROUPS) {
        // All from which the page can be reached; links between these bring nobody in.
        let mut group = vec![*page];
        let mut is_in: FxHashMap<u32, ()> = FxHashMap::from_iter([(*page, ())]);
        let mut next = 0;
        while let Some(at) = group.get(next).copied() {
            next += 1;
            for from in problem.reversed.ends(at) {
                if is_in.insert(*from, ()).is_none() {
                    group.push(*from);
                }
            }
        }
        group.sort_unstable();
        let enters = |at: &u32| !is_in.contains_key(&problem.candidate(*at).from);
        let of: Vec<u32> = group.iter().flat_map(|page| problem.to(*page)).copied().filter(enters).collect();
        if !known.contains(&of) {
            known.push(of.clone());
            demands.push(Demand { of, least: 1 });
        }
    }
    demands
}
