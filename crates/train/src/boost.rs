//! Gradient boosting of small trees, each of which looks at one part of a fit alone, so that parts only add up.
//!
//! Friedman, “Greedy function approximation: a gradient boosting machine” (2001), with second-order leaves and histograms
//! as in Chen and Guestrin, “XGBoost” (2016). That trees keep to groups of features makes the sum an additive model of
//! the groups.

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::openings::features::NAMES;
use strelm_core::openings::{Ensemble, FEATURES, Features, Part, Range, Tree};

/// A feature is looked at in so many steps.
const STEPS: usize = 64;

#[derive(Debug, Clone, Copy)]
pub struct Settings {
    pub rounds: usize,
    pub depth: usize,
    pub rate: f32,
    /// Of the second derivative, in a leaf.
    pub least_weight: f32,
    pub ridge: f32,
}

impl Default for Settings {
    fn default() -> Self {
        Self { rounds: 80, depth: 4, rate: 0.12, least_weight: 20.0, ridge: 5.0 }
    }
}

/// What is learnt from: features, whether it is a link, and how much it counts.
pub struct Example {
    pub features: Features,
    pub is_link: bool,
    pub weight: f32,
}

/// Trains an ensemble. O(rounds × parts × depth × examples × features of a part).
pub fn train(examples: &[Example], settings: Settings) -> Ensemble {
    let cuts: Vec<Vec<f32>> = (0..FEATURES).map(|feature| cuts(examples, feature)).collect();
    // By feature, so that a histogram reads memory in order.
    let steps: Vec<Vec<u8>> = (0..FEATURES)
        .map(|feature| examples.iter().map(|e| step_of(&cuts[feature], e.features[feature])).collect())
        .collect();
    let weight: f32 = examples.iter().map(|e| e.weight).sum();
    let links: f32 = examples.iter().filter(|e| e.is_link).map(|e| e.weight).sum();
    let rate = (links / weight.max(1.0)).clamp(1e-4, 0.9);
    let bias = (rate / (1.0 - rate)).ln();
    let mut odds = vec![bias; examples.len()];
    let mut trees: [Vec<Tree>; 5] = std::array::from_fn(|_| Vec::new());
    for _ in 0..settings.rounds {
        for (at, part) in Part::ALL.into_iter().enumerate() {
            let features: Vec<_> = (0..FEATURES).filter(|feature| NAMES[*feature].1 == part).collect();
            let gradients: Vec<(f32, f32)> = examples
                .iter()
                .zip(&odds)
                .map(|(example, odds)| {
                    let chance = 1.0 / (1.0 + (-odds).exp());
                    let wanted = if example.is_link { 1.0 } else { 0.0 };
                    (example.weight * (chance - wanted), (example.weight * chance * (1.0 - chance)).max(1e-6))
                })
                .collect();
            let grower = Grower { features: &features, cuts: &cuts, steps: &steps, gradients: &gradients, settings };
            let all: Vec<u32> = (0..u32::try_from(examples.len()).unwrap_or(u32::MAX)).collect();
            let tree = grower.grow(all, settings.depth, &mut odds);
            trees[at].push(tree);
        }
    }
    let ranges = [Range { low: 0.0, high: 1.0 }; 5];
    let ensemble = Ensemble::new(bias, ranges, trees);
    let ranges = spread(&ensemble, examples);
    Ensemble::new(bias, ranges, ensemble.trees().clone())
}

/// Where the answers of each part lie, but for the last few at both ends.
fn spread(ensemble: &Ensemble, examples: &[Example]) -> [Range; 5] {
    let answers: Vec<_> =
        examples.iter().step_by((examples.len() / 20_000).max(1)).map(|e| ensemble.parts(&e.features)).collect();
    std::array::from_fn(|part| {
        let mut sorted: Vec<f32> = answers.iter().map(|parts| parts[part]).collect();
        sorted.sort_by(f32::total_cmp);
        let at = |share: f64| sorted.get((share * sorted.len() as f64) as usize).copied().unwrap_or_default();
        Range { low: at(0.05), high: at(0.995) }
    })
}

/// Values that part a feature into steps of equal numbers of examples.
fn cuts(examples: &[Example], feature: usize) -> Vec<f32> {
    let mut values: Vec<f32> =
        examples.iter().step_by((examples.len() / 100_000).max(1)).map(|e| e.features[feature]).collect();
    values.sort_by(f32::total_cmp);
    let mut cuts: Vec<f32> = (1..STEPS).map(|step| values[step * values.len() / STEPS]).collect();
    values.dedup();
    if values.len() <= STEPS {
        cuts = values.windows(2).map(|pair| (pair[0] + pair[1]) / 2.0).collect();
    }
    cuts.dedup();
    cuts
}

fn step_of(cuts: &[f32], value: f32) -> u8 {
    u8::try_from(cuts.partition_point(|cut| *cut <= value)).unwrap_or(u8::MAX)
}

struct Grower<'g> {
    features: &'g [usize],
    cuts: &'g [Vec<f32>],
    steps: &'g [Vec<u8>],
    gradients: &'g [(f32, f32)],
    settings: Settings,
}

impl Grower<'_> {
    fn grow(&self, rows: Vec<u32>, depth: usize, odds: &mut [f32]) -> Tree {
        let (mut sum, mut weight) = (0.0f64, 0.0f64);
        for row in &rows {
            let (gradient, second) = self.gradients[*row as usize];
            sum += f64::from(gradient);
            weight += f64::from(second);
        }
        if depth > 0
            && let Some((feature, step)) = self.best_split(&rows, sum, weight)
        {
            let (left, right): (Vec<u32>, Vec<u32>) =
                rows.into_iter().partition(|row| self.steps[feature][*row as usize] <= step);
            let below = self.cuts[feature][step as usize];
            let left = Box::new(self.grow(left, depth - 1, odds));
            let right = Box::new(self.grow(right, depth - 1, odds));
            return Tree::Split { feature, below, left, right };
        }
        let value = (-sum / (weight + f64::from(self.settings.ridge))) as f32 * self.settings.rate;
        // A short number is read again as the same one.
        let value = (value * 1e5).round() / 1e5;
        rows.iter().for_each(|row| odds[*row as usize] += value);
        Tree::Leaf(value)
    }

    /// Features are looked at side by side; of equal gains that of the first counts.
    fn best_split(&self, rows: &[u32], sum: f64, weight: f64) -> Option<(usize, u8)> {
        let splits: Vec<_> =
            self.features.par_iter().map(|feature| self.best_of(*feature, rows, sum, weight)).collect();
        let better = |best: Option<(f64, usize, u8)>, split: (f64, usize, u8)| {
            if best.is_none_or(|known| split.0 > known.0) { Some(split) } else { best }
        };
        splits.into_iter().flatten().fold(None, better).map(|(_, feature, step)| (feature, step))
    }

    /// The best split by one feature, with what is gained by it.
    fn best_of(&self, feature: usize, rows: &[u32], sum: f64, weight: f64) -> Option<(f64, usize, u8)> {
        let least = f64::from(self.settings.least_weight);
        let ridge = f64::from(self.settings.ridge);
        let gain_of = |sum: f64, weight: f64| sum * sum / (weight + ridge);
        let mut histogram = [(0.0f64, 0.0f64); STEPS + 1];
        let steps = &self.steps[feature];
        for row in rows {
            let (gradient, second) = self.gradients[*row as usize];
            let bin = &mut histogram[steps[*row as usize] as usize];
            bin.0 += f64::from(gradient);
            bin.1 += f64::from(second);
        }
        let mut best: Option<(f64, usize, u8)> = None;
        let (mut left, mut left_weight) = (0.0, 0.0);
        for (step, (gradient, second)) in histogram.iter().enumerate().take(self.cuts[feature].len()) {
            left += gradient;
            left_weight += second;
            if left_weight < least || weight - left_weight < least {
                continue;
            }
            let gain = gain_of(left, left_weight) + gain_of(sum - left, weight - left_weight) - gain_of(sum, weight);
            if gain > 1.0 && best.is_none_or(|(known, ..)| gain > known) {
                best = Some((gain, feature, u8::try_from(step).unwrap_or(u8::MAX)));
            }
        }
        best
    }
}
