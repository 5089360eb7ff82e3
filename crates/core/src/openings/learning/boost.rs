//! Gradient boosting of small trees, each of which looks at one part of a fit alone, so that parts only add up.
//!
//! Friedman, “Greedy function approximation: a gradient boosting machine” (2001), with second-order leaves and histograms
//! as in Chen and Guestrin, “XGBoost” (2016). That trees keep to groups of features makes the sum an additive model of
//! the groups.

use rayon::iter::{IndexedParallelIterator, IntoParallelIterator, IntoParallelRefIterator, ParallelIterator};

use super::example::Example;
use super::lists::{Gradient, Lists, Wishes};
use crate::openings::features::FEATURES;
use crate::openings::{Ensemble, EnsembleError, Part, PartRange, Tree};

/// A feature is looked at in so many steps.
const STEPS: usize = 64;

/// Fewer examples are not worth a thread of their own.
const AT_LEAST: usize = 4096;

/// How trees are grown.
#[derive(Debug, Clone, Copy)]
pub struct BoostSettings {
    pub rounds: usize,
    pub depth: usize,
    pub rate: f32,
    /// Of the second derivative, in a leaf.
    pub least_weight: f32,
    pub ridge: f32,
    pub wishes: Wishes,
    /// Those that learn.
    pub parts: &'static [Part],
}

impl Default for BoostSettings {
    fn default() -> Self {
        let wishes = Wishes { of_source: 0.5, to_target: 0.5, of_pair: 2.0 };
        Self { rounds: 80, depth: 4, rate: 0.12, least_weight: 20.0, ridge: 5.0, wishes, parts: &Part::ALL }
    }
}

/// Trains an ensemble. O(rounds × parts × depth × examples × features of a part).
///
/// # Errors
/// [`EnsembleError::Deep`] when the settings allow deeper trees than an ensemble holds.
pub fn train(examples: &[Example], settings: BoostSettings) -> Result<Ensemble, EnsembleError> {
    let weight: f32 = examples.iter().map(|e| e.weight).sum();
    let links: f32 = examples.iter().filter(|e| e.is_link).map(|e| e.weight).sum();
    let rate = (links / weight.max(1.0)).clamp(1e-4, 0.9);
    let bias = (rate / (1.0 - rate)).ln();
    let trees = grow(examples, vec![bias; examples.len()], settings);
    let ranges = [PartRange { low: 0.0, high: 1.0 }; 5];
    let ensemble = Ensemble::new(bias, ranges, trees)?;
    let ranges = spread(&ensemble, examples);
    Ok(ensemble.ranging(ranges))
}

/// Trees that an ensemble lacks to tell of these examples what they are. Cost as [`train`].
pub fn grow_beside(ensemble: &Ensemble, examples: &[Example], settings: BoostSettings) -> [Vec<Tree>; 5] {
    let odds = examples.par_iter().map(|example| ensemble.log_odds(&example.features.all())).collect();
    grow(examples, odds, settings)
}

/// Trees of each part that bring what examples are promised closer to what they are.
fn grow(examples: &[Example], mut odds: Vec<f32>, settings: BoostSettings) -> [Vec<Tree>; 5] {
    let mut trees: [Vec<Tree>; 5] = std::array::from_fn(|_| Vec::new());
    if examples.is_empty() {
        return trees;
    }
    let cuts: Vec<Vec<f32>> = (0..FEATURES).into_par_iter().map(|feature| cuts(examples, feature)).collect();
    // By feature, so that a histogram reads memory in order.
    let steps: Vec<Vec<u8>> = (0..FEATURES)
        .into_par_iter()
        .map(|feature| examples.iter().map(|e| step_of(&cuts[feature], e.features.get(feature))).collect())
        .collect();
    let lists = Lists::of(examples, settings.wishes);
    for _ in 0..settings.rounds {
        for part in settings.parts {
            let features: Vec<_> = part.features().collect();
            let pull = lists.pull(examples, &odds);
            let gradient = |at: usize| {
                let Example { is_link, weight, .. } = examples[at];
                let chance = 1.0 / (1.0 + (-odds[at]).exp());
                let wanted = if is_link { 1.0 } else { 0.0 };
                let (slope, bend) = pull.on(at);
                (weight * (chance - wanted) + slope, (weight * chance * (1.0 - chance)).max(1e-6) + bend)
            };
            let gradients: Vec<Gradient> =
                (0..examples.len()).into_par_iter().with_min_len(AT_LEAST).map(gradient).collect();
            let grower = Grower { features: &features, cuts: &cuts, steps: &steps, gradients: &gradients, settings };
            let all: Vec<u32> = (0..u32::try_from(examples.len()).unwrap_or(u32::MAX)).collect();
            trees[*part as usize].push(grower.grow(all, settings.depth, &mut odds));
        }
    }
    trees
}

/// Where the answers of each part lie, but for the last few at both ends.
fn spread(ensemble: &Ensemble, examples: &[Example]) -> [PartRange; 5] {
    let answers: Vec<_> =
        examples.iter().step_by((examples.len() / 20_000).max(1)).map(|e| ensemble.parts(&e.features.all())).collect();
    std::array::from_fn(|part| {
        let mut sorted: Vec<f32> = answers.iter().map(|parts| parts[part]).collect();
        sorted.sort_by(f32::total_cmp);
        let at = |share: f64| sorted.get((share * sorted.len() as f64) as usize).copied().unwrap_or_default();
        PartRange { low: at(0.05), high: at(0.995) }
    })
}

/// Values that part a feature into steps of equal numbers of examples.
fn cuts(examples: &[Example], feature: usize) -> Vec<f32> {
    let mut values: Vec<f32> =
        examples.iter().step_by((examples.len() / 100_000).max(1)).map(|e| e.features.get(feature)).collect();
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
    gradients: &'g [Gradient],
    settings: BoostSettings,
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

#[cfg(test)]
mod tests {
    use super::super::example::Listed;
    use super::super::halved::Halved;
    use super::*;
    use crate::openings::features::feature_of;

    /// Pages that each name ten others at two places: the author links to the one that is most like the page, at the place
    /// that comes first. Similarity is told with a page's own leaning, so that it only says something beside the others of the
    /// same page.
    fn examples() -> Vec<Example> {
        let feature = |name: &str| feature_of(name).unwrap();
        let (like, before) = (feature("similarity of page and target"), feature("before on the page"));
        let mut random = fastrand::Rng::with_seed(7);
        let mut all = Vec::new();
        for source in 0..60 {
            let leaning = random.f32() * 3.0;
            let similarity: Vec<f32> = (0..10).map(|_| random.f32()).collect();
            let best = (0..10).max_by(|a, b| similarity[*a].total_cmp(&similarity[*b])).unwrap();
            for (target, place) in (0..10).flat_map(|target| [(target, 0.0), (target, 1.0)]) {
                let mut features = [0.0; FEATURES];
                features[like] = similarity[target] + leaning;
                features[before] = place;
                let is_pair = target == best;
                let list = Listed { variant: 0, source, target: target as u32 };
                let is_link = is_pair && place == 0.0;
                let weight = if is_pair && !is_link { 0.1 } else { 1.0 };
                let features = Halved::of(&features);
                all.push(Example { features, is_link, is_pair, weight, counts: 1.0, stands_for: 1.0, list });
            }
        }
        all
    }

    /// On how many pages the author's link is the first of all; and on how many its place is before the other one.
    fn right(examples: &[Example], wishes: Wishes) -> (usize, usize) {
        let settings = BoostSettings { rounds: 40, least_weight: 1.0, wishes, ..BoostSettings::default() };
        let ensemble = train(examples, settings).unwrap();
        let (mut first, mut placed) = (0, 0);
        for page in examples.chunks(20) {
            let odds: Vec<f32> = page.iter().map(|example| ensemble.log_odds(&example.features.all())).collect();
            let link = page.iter().position(|example| example.is_link).unwrap();
            first += usize::from((0..20).all(|at| at == link || odds[at] < odds[link]));
            placed += usize::from(odds[link] > odds[link + 1]);
        }
        (first, placed)
    }

    #[test]
    fn a_part_knows_its_own_numbers_only_and_lists_teach_what_comes_first() {
        let examples = examples();
        let none = Wishes { of_source: 0.0, to_target: 0.0, of_pair: 0.0 };
        let (first_alone, _) = right(&examples, none);
        let (first, placed) = right(&examples, BoostSettings::default().wishes);
        assert_eq!(placed, 60, "the author's place comes first");
        assert!(first > first_alone, "{first} {first_alone}");
        let ensemble = train(&examples, BoostSettings::default()).unwrap();
        assert_eq!(Ensemble::parse(&ensemble.to_text()), Ok(ensemble), "what ships is what was learnt");
    }
}
