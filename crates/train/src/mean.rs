//! Several ensembles as one: what each does by chance evens out (Breiman, “Bagging predictors”, 1996).

use strelm_core::openings::{Ensemble, Range, Tree};

/// An ensemble whose log-odds are the mean of those of some others. It has the trees of all of them. O(trees).
pub fn mean_of(some: &[Ensemble]) -> Ensemble {
    let share = 1.0 / (some.len() as f32).max(1.0);
    let mean = |get: &dyn Fn(&Ensemble) -> f32| some.iter().map(get).sum::<f32>() * share;
    let bias = mean(&Ensemble::bias);
    let ranges = std::array::from_fn(|part| Range {
        low: mean(&|one| one.ranges()[part].low),
        high: mean(&|one| one.ranges()[part].high),
    });
    let trees = std::array::from_fn(|part| {
        some.iter().flat_map(|one| &one.trees()[part]).map(|tree| scaled(tree, share)).collect()
    });
    Ensemble::new(bias, ranges, trees)
}

fn scaled(tree: &Tree, by: f32) -> Tree {
    match tree {
        Tree::Leaf(value) => Tree::Leaf(value * by),
        Tree::Split { feature, below, left, right } => {
            let (left, right) = (Box::new(scaled(left, by)), Box::new(scaled(right, by)));
            Tree::Split { feature: *feature, below: *below, left, right }
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use strelm_core::openings::FEATURES;
    use strelm_core::openings::features::NAMES;

    use super::*;

    /// One tree for each part, split by its first feature.
    fn ensemble() -> impl Strategy<Value = Ensemble> {
        (-3.0f32..3.0, prop::array::uniform5((-1.0f32..1.0, -2.0f32..2.0, -2.0f32..2.0))).prop_map(|(bias, splits)| {
            let mut parts: Vec<_> = NAMES.iter().map(|(_, part)| *part).collect();
            parts.dedup();
            let trees = std::array::from_fn(|at| {
                let feature = NAMES.iter().position(|(_, part)| *part == parts[at]).unwrap();
                let (below, left, right) = splits[at];
                let leaf = |value| Box::new(Tree::Leaf(value));
                vec![Tree::Split { feature, below, left: leaf(left), right: leaf(right) }]
            });
            Ensemble::new(bias, [Range { low: -1.0, high: 1.0 }; 5], trees)
        })
    }

    proptest! {
        #[test]
        fn the_mean_of_ensembles_says_the_mean_of_what_they_say(
            some in prop::collection::vec(ensemble(), 1..4),
            value in -1.0f32..1.0,
        ) {
            let features = [value; FEATURES];
            let said: Vec<f32> = some.iter().map(|one| one.log_odds(&features)).collect();
            let mean = mean_of(&some);
            let wanted = said.iter().sum::<f32>() / said.len() as f32;
            prop_assert!((mean.log_odds(&features) - wanted).abs() < 1e-4);
            prop_assert_eq!(Ensemble::parse(&mean.to_text()), Ok(mean), "what ships is what was learnt");
        }
    }
}
