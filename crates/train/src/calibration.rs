//! What the log-odds of an ensemble turn out to be on sites that it was not learnt from.

use strelm_core::openings::Promise;

/// Log-odds between which the curve is written down, one apart; beyond them it goes on as it did.
const FROM: i32 = -14;
const TO: i32 = 10;

/// Steps towards the best curve; it has long been reached before.
const MOST_STEPS: usize = 100;

/// A halved step that still makes things worse leads nowhere.
const MOST_HALVINGS: usize = 30;

/// Pulls the curve towards the log-odds as they are, as so many pairs would: for sites that link next to nothing.
const RIDGE: f64 = 1.0;

/// `offset + slope × odds + bend × ln(1 + e^odds)`: a straight line that may turn once, where odds are even. Promises at
/// the top fail more often than lower ones, since sites differ in how much their authors link.
#[derive(Debug, Clone, Copy)]
struct Curve([f64; 3]);

const AS_SAID: Curve = Curve([0.0, 1.0, 0.0]);

/// A pair of pages: its log-odds, whether an author linked it, and how much it counts.
#[derive(Debug, Clone, Copy)]
struct Pair {
    odds: f64,
    is_linked: bool,
    weight: f64,
}

/// What log-odds turn out to be: a rising line through places of the likeliest curve of a few numbers (logistic regression;
/// Platt, “Probabilistic outputs for support vector machines”, 1999).
///
/// `sets` are pairs of pages of sites, each of which was judged by an ensemble that had not learnt from it. A set of four
/// times as many pairs counts twice as much. O(pairs).
pub fn calibration(sets: &[&[(f32, bool)]]) -> Vec<Promise> {
    let weighed = sets.iter().flat_map(|pairs| {
        let weight = 1.0 / (pairs.len() as f64).sqrt();
        pairs.iter().map(move |(odds, is_linked)| Pair { odds: f64::from(*odds), is_linked: *is_linked, weight })
    });
    let mut pairs: Vec<Pair> = weighed.collect();
    let mean = pairs.iter().map(|pair| pair.weight).sum::<f64>() / (pairs.len() as f64).max(1.0);
    pairs.iter_mut().for_each(|pair| pair.weight /= mean);
    let curve = Curve::of(&pairs);
    let shortened = |value: f64| ((value * 1e3).round() / 1e3) as f32;
    let mut line: Vec<Promise> = Vec::new();
    for said in FROM..=TO {
        let place = Promise { said: said as f32, kept: shortened(curve.at(f64::from(said))) };
        if line.last().is_none_or(|before| before.kept < place.kept) {
            line.push(place);
        }
    }
    line
}

impl Curve {
    /// Newton’s steps, halved where they would go too far.
    fn of(pairs: &[Pair]) -> Self {
        let mut best = AS_SAID;
        let mut loss = best.loss(pairs);
        for _ in 0..MOST_STEPS {
            let step = best.step(pairs);
            let halves = std::iter::successors(Some(1.0), |part| Some(part / 2.0)).take(MOST_HALVINGS);
            let next = halves.map(|part| Self(std::array::from_fn(|at| best.0[at] + part * step[at])));
            let next = next.map(|curve| (curve, curve.loss(pairs))).find(|(_, less)| *less < loss);
            let Some((curve, less)) = next else { break };
            let is_there = loss - less < 1e-9 * loss;
            (best, loss) = (curve, less);
            if is_there {
                break;
            }
        }
        best
    }

    fn at(self, odds: f64) -> f64 {
        let sides = sides_of(odds);
        (0..3).map(|at| self.0[at] * sides[at]).sum()
    }

    fn loss(self, pairs: &[Pair]) -> f64 {
        let of_pairs = pairs.iter().map(|pair| {
            let kept = self.at(pair.odds);
            pair.weight * (softplus(kept) - if pair.is_linked { kept } else { 0.0 })
        });
        let pull = (0..3).map(|at| (self.0[at] - AS_SAID.0[at]).powi(2)).sum::<f64>();
        of_pairs.sum::<f64>() + RIDGE * pull / 2.0
    }

    fn step(self, pairs: &[Pair]) -> [f64; 3] {
        let mut slopes: [f64; 3] = std::array::from_fn(|at| RIDGE * (AS_SAID.0[at] - self.0[at]));
        let mut bends = [[0.0; 3]; 3];
        (0..3).for_each(|at| bends[at][at] = RIDGE);
        for pair in pairs {
            let (sides, chance) = (sides_of(pair.odds), 1.0 / (1.0 + (-self.at(pair.odds)).exp()));
            let miss = pair.weight * (if pair.is_linked { 1.0 } else { 0.0 } - chance);
            let spread = pair.weight * chance * (1.0 - chance);
            for at in 0..3 {
                slopes[at] += miss * sides[at];
                for other in 0..3 {
                    bends[at][other] += spread * sides[at] * sides[other];
                }
            }
        }
        solved(bends, slopes)
    }
}

fn sides_of(odds: f64) -> [f64; 3] {
    [1.0, odds, softplus(odds)]
}

/// ln(1 + e^x), without overflow.
fn softplus(x: f64) -> f64 {
    x.max(0.0) + (-x.abs()).exp().ln_1p()
}

/// Solves three equations by elimination. What the ridge made positive needs no choice of rows.
fn solved(mut rows: [[f64; 3]; 3], mut right: [f64; 3]) -> [f64; 3] {
    for pivot in 0..3 {
        let (row, known) = (rows[pivot], right[pivot]);
        for below in pivot + 1..3 {
            let factor = rows[below][pivot] / row[pivot];
            rows[below].iter_mut().zip(row).for_each(|(value, above)| *value -= factor * above);
            right[below] -= factor * known;
        }
    }
    for at in (0..3).rev() {
        let known: f64 = (at + 1..3).map(|later| rows[at][later] * right[later]).sum();
        right[at] = (right[at] - known) / rows[at][at];
    }
    right
}

#[cfg(test)]
mod tests {
    use strelm_core::openings::Ensemble;

    use super::*;
    use crate::measure::reliability;

    /// Pairs whose log-odds are said to be what `said` makes of the truth.
    fn pairs(seed: u64, count: usize, said: impl Fn(f32) -> f32) -> Vec<(f32, bool)> {
        let mut random = fastrand::Rng::with_seed(seed);
        let mut pair = || {
            let truth = random.f32() * 7.0 - 4.0;
            (said(truth), random.f32() < 1.0 / (1.0 + (-truth).exp()))
        };
        (0..count).map(|_| pair()).collect()
    }

    fn check(pairs: &[(f32, bool)]) {
        let ensemble = Ensemble::new(0.0, Ensemble::shipped().unwrap().ranges(), Default::default()).unwrap();
        let ensemble = ensemble.promising(calibration(&[pairs]));
        let tenths = reliability(pairs.iter().map(|(odds, linked)| (ensemble.promise(*odds).0, *linked)));
        for (tenth, (all, linked)) in tenths.into_iter().enumerate().filter(|(_, (all, _))| *all > 500) {
            let share = linked as f64 / all as f64 * 10.0;
            assert!(share > tenth as f64 - 0.4 && share < tenth as f64 + 1.4, "{tenth}: {share}");
        }
    }

    #[test]
    fn what_promises_too_much_is_brought_down_to_what_is_kept() {
        check(&pairs(7, 30_000, |truth| truth * 2.0 + 1.0));
        // Twice as much from even odds on.
        check(&pairs(8, 30_000, |truth| if truth > 0.0 { truth * 2.0 } else { truth }));
    }

    #[test]
    fn a_set_of_four_times_as_many_pairs_counts_twice_as_much() {
        let (few, many) = (vec![(0.0, true); 100], vec![(0.0, false); 400]);
        let line = calibration(&[&few, &many]);
        let even = line.iter().find(|place| place.said == 0.0).unwrap();
        // One third is linked: 1 to 2.
        assert!((even.kept - 0.5_f32.ln()).abs() < 0.05, "{even:?}");
    }

    #[test]
    fn nothing_and_one_kind_alone_give_a_rising_line() {
        for pairs in [vec![], vec![(1.0, true); 50], vec![(-2.0, false); 50]] {
            let line = calibration(&[&pairs]);
            assert!(line.len() > 2 && line.iter().all(|place| place.kept.is_finite()), "{line:?}");
        }
    }
}
