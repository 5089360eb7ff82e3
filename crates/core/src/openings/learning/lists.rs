//! What is wanted of all odds together, beyond what each promises for itself: that links stand before what is none in the
//! lists in which openings are shown, of a page and to a page; and that of the places for one target the author's comes
//! first.
//!
//! Of each link in a list: the softmax loss of Cao et al., “Learning to rank: from pairwise approach to listwise approach”
//! (2007), against all of the list that is no link.

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use rustc_hash::FxHashMap;

use super::example::{Example, Listed};

/// How much the wishes count beside what each example promises for itself.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wishes {
    /// That what a page links stands before what it does not.
    pub of_source: f32,
    /// That those who link to a page stand before those who do not.
    pub to_target: f32,
    /// That the author's words stand before others for the same target.
    pub of_pair: f32,
}

/// The first and the second derivative of the loss by the odds of an example.
pub type Gradient = (f32, f32);

/// Examples in their lists.
pub struct Lists {
    sources: Kind,
    targets: Kind,
    pairs: Kind,
    wishes: Wishes,
}

/// Lists of one kind in which there is something to put before something else; none where nothing is wished of them.
#[derive(Default)]
struct Kind {
    lists: Vec<Vec<u32>>,
    /// By example, the number of its list.
    of: Vec<Option<u32>>,
}

impl Lists {
    /// O(examples).
    pub fn of(examples: &[Example], wishes: Wishes) -> Self {
        let kind = |wish: f32, key: fn(&Listed) -> (u32, u32, u32)| match wish > 0.0 {
            true => Kind::of(examples, key),
            false => Kind::default(),
        };
        Self {
            sources: kind(wishes.of_source, |list| (list.variant, list.source, 0)),
            targets: kind(wishes.to_target, |list| (list.variant, 0, list.target)),
            pairs: kind(wishes.of_pair, |list| (list.variant, list.source, list.target)),
            wishes,
        }
    }

    /// What the wishes pull at the odds of each example. O(examples).
    pub fn pull<'l>(&'l self, examples: &'l [Example], odds: &[f32]) -> Pull<'l> {
        let wishes = self.wishes;
        // As odds and not as their logarithm; so far from each other that they would not fit, they never are.
        let powers: Vec<f32> = odds.par_iter().map(|odds| odds.clamp(-40.0, 40.0).exp()).collect();
        let rivals = |kind: &Kind, by: f32| -> Vec<Rivals> {
            kind.lists.par_iter().map(|list| Rivals::of(list, examples, &powers, by)).collect()
        };
        let places = self.pairs.lists.par_iter().map(|list| Places::of(list, examples, &powers)).collect();
        Pull {
            sources: rivals(&self.sources, wishes.of_source),
            targets: rivals(&self.targets, wishes.to_target),
            places,
            lists: self,
            examples,
            powers,
        }
    }
}

impl Kind {
    fn of(examples: &[Example], key: impl Fn(&Listed) -> (u32, u32, u32)) -> Self {
        let key = |example: &Example| key(&example.list);
        let links = examples.iter().filter(|example| example.is_link);
        let mut lists: FxHashMap<(u32, u32, u32), Vec<u32>> = links.map(|link| (key(link), Vec::new())).collect();
        for (at, example) in (0..).zip(examples) {
            if let Some(list) = lists.get_mut(&key(example)) {
                list.push(at);
            }
        }
        let mut lists: Vec<_> = lists.into_iter().collect();
        lists.sort_unstable_by_key(|(key, _)| *key);
        let is_link = |at: &u32| examples[*at as usize].is_link;
        let lists: Vec<_> = lists.into_iter().map(|(_, list)| list).filter(|list| !list.iter().all(is_link)).collect();
        let mut of = vec![None; examples.len()];
        for (number, list) in (0..).zip(&lists) {
            list.iter().for_each(|at| of[*at as usize] = Some(number));
        }
        Self { lists, of }
    }

    fn list<'s, T>(&self, sums: &'s [T], at: usize) -> Option<&'s T> {
        sums.get((*self.of.get(at)?)? as usize)
    }
}

/// Each link of a list against all of the list that leads where the author did not. Other places of what the author linked
/// take no part.
struct Rivals {
    /// What is no link, added up.
    rest: f32,
    /// What all links together pull at one of the others, but for its own power; and what of that bends.
    pull: f32,
    bend: f32,
    by: f32,
}

impl Rivals {
    fn of(list: &[u32], examples: &[Example], powers: &[f32], by: f32) -> Self {
        let known = || list.iter().map(|at| (&examples[*at as usize], powers[*at as usize]));
        let others = known().filter(|(example, _)| !example.is_pair);
        let rest: f32 = others.map(|(example, power)| power * example.stands_for).sum();
        let (mut pull, mut bend) = (0.0, 0.0);
        for (example, power) in known().filter(|(example, _)| example.is_link) {
            let (weight, all) = (by * example.counts, power + rest);
            pull += weight / all;
            bend += weight / all / all;
        }
        Self { rest, pull, bend, by }
    }

    fn on(&self, example: &Example, power: f32) -> Gradient {
        if example.is_link {
            let (weight, share) = (self.by * example.counts, power / (power + self.rest));
            return (-weight * (1.0 - share), weight * share * (1.0 - share));
        }
        if example.is_pair {
            return (0.0, 0.0);
        }
        let pulled = power * self.pull;
        (example.stands_for * pulled, example.stands_for * (pulled - power * power * self.bend).max(0.0))
    }
}

/// The author's places of a pair, taken together, against all of them.
struct Places {
    all: f32,
    right: f32,
}

impl Places {
    fn of(list: &[u32], examples: &[Example], powers: &[f32]) -> Self {
        let all = list.iter().map(|at| powers[*at as usize]).sum();
        let right = list.iter().filter(|at| examples[**at as usize].is_link);
        Self { all, right: right.map(|at| powers[*at as usize]).sum() }
    }

    fn on(&self, example: &Example, power: f32, by: f32) -> Gradient {
        let (weight, share) = (by * example.counts, power / self.all);
        let wanted = if example.is_link { power / self.right } else { 0.0 };
        (weight * (share - wanted), weight * share * (1.0 - share))
    }
}

/// What wishes pull at odds.
pub struct Pull<'l> {
    lists: &'l Lists,
    examples: &'l [Example],
    powers: Vec<f32>,
    sources: Vec<Rivals>,
    targets: Vec<Rivals>,
    places: Vec<Places>,
}

impl Pull<'_> {
    /// At those of one example. O(1).
    pub fn on(&self, at: usize) -> Gradient {
        let (example, power) = (&self.examples[at], self.powers[at]);
        let Lists { sources, targets, pairs, wishes } = self.lists;
        let all = [
            sources.list(&self.sources, at).map(|rivals| rivals.on(example, power)),
            targets.list(&self.targets, at).map(|rivals| rivals.on(example, power)),
            pairs.list(&self.places, at).map(|places| places.on(example, power, wishes.of_pair)),
        ];
        all.into_iter().flatten().fold((0.0, 0.0), |sum, more| (sum.0 + more.0, sum.1 + more.1))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::openings::features::FEATURES;
    use crate::openings::learning::Halved;
    use proptest::prelude::*;

    const WISHES: Wishes = Wishes { of_source: 0.5, to_target: 0.7, of_pair: 2.0 };

    /// What is to become small, summed up plainly, pair by pair of a link and what is none.
    fn loss(examples: &[Example], odds: &[f64]) -> f64 {
        let numbered = || examples.iter().zip(odds);
        let mut sum = 0.0;
        for (link, own) in numbered().filter(|(example, _)| example.is_link) {
            let against = |same: fn(&Listed, &Listed) -> bool| -> f64 {
                let others = numbered().filter(|(e, _)| !e.is_pair && same(&e.list, &link.list));
                others.map(|(e, odds)| f64::from(e.stands_for) * (odds - own).exp()).sum()
            };
            let of_source = against(|one, other| one.source == other.source);
            let to_target = against(|one, other| one.target == other.target);
            sum += f64::from(link.counts * WISHES.of_source) * of_source.ln_1p();
            sum += f64::from(link.counts * WISHES.to_target) * to_target.ln_1p();
        }
        for source in 0..3 {
            for target in 0..3 {
                let places = || numbered().filter(|(e, _)| (e.list.source, e.list.target) == (source, target));
                let all: f64 = places().map(|(_, odds)| odds.exp()).sum();
                let right: f64 = places().filter(|(e, _)| e.is_link).map(|(_, odds)| odds.exp()).sum();
                let counts = places().map(|(e, _)| e.counts).next().unwrap_or_default();
                if right > 0.0 {
                    sum += f64::from(counts * WISHES.of_pair) * (all / right).ln();
                }
            }
        }
        sum
    }

    fn examples() -> impl Strategy<Value = (Vec<Example>, Vec<f32>)> {
        let one = (0..3u32, 0..3u32, any::<bool>(), 1..4u8, -4.0..4.0f32);
        prop::collection::vec(one, 1..24).prop_map(|rows| {
            let linked: Vec<_> = rows.iter().filter(|row| row.2).map(|row| (row.0, row.1)).collect();
            let example = |(source, target, is_link, stands_for, odds): (u32, u32, bool, u8, f32)| {
                let is_pair = linked.contains(&(source, target));
                let example = Example {
                    features: Halved::of(&[0.0; FEATURES]),
                    is_link,
                    is_pair,
                    weight: 1.0,
                    counts: 0.8,
                    stands_for: if is_pair { 1.0 } else { f32::from(stands_for) },
                    list: Listed { variant: 0, source, target },
                };
                (example, odds)
            };
            rows.iter().copied().map(example).unzip()
        })
    }

    proptest! {
        #[test]
        fn the_pull_is_the_slope_of_what_is_to_become_small((examples, odds) in examples()) {
            let lists = Lists::of(&examples, WISHES);
            let pull = lists.pull(&examples, &odds);
            let exact: Vec<f64> = odds.iter().copied().map(f64::from).collect();
            for at in 0..examples.len() {
                let (slope, bend) = pull.on(at);
                let moved = |by: f64| {
                    let mut odds = exact.clone();
                    odds[at] += by;
                    loss(&examples, &odds)
                };
                let measured = (moved(1e-4) - moved(-1e-4)) / 2e-4;
                prop_assert!((f64::from(slope) - measured).abs() < 1e-3 * (1.0 + measured.abs()), "{} {}", slope, measured);
                prop_assert!(bend >= 0.0 && bend.is_finite());
            }
        }
    }
}
