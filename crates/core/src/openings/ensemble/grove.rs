//! The trees of one part, made for speed: all are asked at once, feature by feature.
//!
//! After Lucchese et al., “QuickScorer: a fast algorithm to rank documents with additive ensembles of regression trees”
//! (2015): each question answered with “no” rules out the leaves on its left, and the first leaf that is left is the
//! answer. As there are few features with few cuts each, what all answers to the questions about a feature rule out is
//! written down beforehand.

use std::cmp::Ordering;

use super::tree::{MOST_DEPTH, Tree};
use crate::openings::features::{FEATURES, Features};

/// Trees that are asked side by side.
const ABREAST: usize = 16;

/// A tree's leaves that are not ruled out, the first one lowest.
type Leaves = u16;

const MOST_LEAVES: usize = Leaves::BITS as usize;
const _: () = assert!(MOST_LEAVES == 1 << MOST_DEPTH);

#[derive(Debug, Clone, PartialEq, Default)]
pub(super) struct Grove {
    asked: Vec<Asked>,
    /// What the leaves add, of so many trees; empty trees fill up the last.
    leaves: Vec<[[f32; MOST_LEAVES]; ABREAST]>,
}

/// What is asked about one feature.
#[derive(Debug, Clone, PartialEq)]
struct Asked {
    feature: usize,
    /// Rising. Values at or above a cut answer its questions with “no”.
    cuts: Vec<f32>,
    /// What is left of the trees below the first cut, then from each cut on; trees in the order of the leaves.
    left: Vec<[Leaves; ABREAST]>,
}

/// A question in one of the trees.
struct Question {
    tree: usize,
    feature: usize,
    cut: f32,
    /// What “no” leaves.
    left: Leaves,
}

impl Grove {
    /// Trees are of no more than [`MOST_DEPTH`]. O(questions × trees).
    pub fn of(trees: &[Tree]) -> Self {
        let mut leaves = vec![[[0.0; MOST_LEAVES]; ABREAST]; trees.len().div_ceil(ABREAST)];
        let mut questions = Vec::new();
        let flat = leaves.as_flattened_mut();
        for (at, (tree, leaves)) in trees.iter().zip(flat).enumerate() {
            number_leaves(tree, at, 0, leaves, &mut questions);
        }
        questions.sort_by(|a, b| (a.feature, a.cut).partial_cmp(&(b.feature, b.cut)).unwrap_or(Ordering::Equal));
        let of_feature = questions.chunk_by(|a, b| a.feature == b.feature);
        Self { asked: of_feature.map(|questions| Asked::of(questions, leaves.len())).collect(), leaves }
    }

    /// What a row adds up to, tree after tree. O(features × (log cuts + trees / [`ABREAST`]) + trees).
    pub fn sum(&self, row: &Features) -> f32 {
        let mut sum = 0.0;
        let mut from = [0; FEATURES];
        for (asked, from) in self.asked.iter().zip(&mut from) {
            let value = row[asked.feature];
            *from =
                asked.cuts.partition_point(|cut| value.partial_cmp(cut) != Some(Ordering::Less)) * self.leaves.len();
        }
        for (block, leaves) in self.leaves.iter().enumerate() {
            let mut left = [Leaves::MAX; ABREAST];
            for (asked, from) in self.asked.iter().zip(&from) {
                let more = &asked.left[from + block];
                left.iter_mut().zip(more).for_each(|(left, more)| *left &= more);
            }
            for (left, leaves) in left.iter().zip(leaves) {
                // One leaf is left at least; the remainder spares a look at the bounds.
                sum += leaves[left.trailing_zeros() as usize % MOST_LEAVES];
            }
        }
        sum
    }
}

impl Asked {
    /// `questions` are all about one feature, by their cuts.
    fn of(questions: &[Question], blocks: usize) -> Self {
        let mut left = vec![[Leaves::MAX; ABREAST]; blocks];
        let mut all = left.clone();
        let mut cuts = Vec::new();
        for same in questions.chunk_by(|a, b| a.cut == b.cut) {
            for question in same {
                left[question.tree / ABREAST][question.tree % ABREAST] &= question.left;
            }
            cuts.push(same[0].cut);
            all.extend_from_slice(&left);
        }
        Self { feature: questions.first().map_or(0, |question| question.feature), cuts, left: all }
    }
}

/// Numbers the leaves of a tree from left to right, the first of them `next`, and collects its questions. Gives the number
/// after the last.
fn number_leaves(
    tree: &Tree,
    at: usize,
    next: usize,
    leaves: &mut [f32; MOST_LEAVES],
    questions: &mut Vec<Question>,
) -> usize {
    match tree {
        Tree::Leaf(value) => {
            leaves[next] = *value;
            next + 1
        }
        Tree::Split { feature, below, left, right } => {
            let middle = number_leaves(left, at, next, leaves, questions);
            let on_left = (next..middle).fold(0, |all: Leaves, leaf| all | 1 << leaf);
            questions.push(Question { tree: at, feature: *feature, cut: *below, left: !on_left });
            number_leaves(right, at, middle, leaves, questions)
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn tree() -> impl Strategy<Value = Tree> {
        let number = || (-20i8..20).prop_map(|number| f32::from(number) / 4.0);
        let leaf = number().prop_map(Tree::Leaf);
        leaf.prop_recursive(MOST_DEPTH as u32, 1 << (MOST_DEPTH + 1), 2, move |side| {
            (0..FEATURES, number(), side.clone(), side).prop_map(|(feature, below, left, right)| Tree::Split {
                feature,
                below,
                left: Box::new(left),
                right: Box::new(right),
            })
        })
    }

    /// Step by step, as trees are written.
    fn walk(tree: &Tree, row: &Features) -> f32 {
        match tree {
            Tree::Leaf(value) => *value,
            Tree::Split { feature, below, left, .. } if row[*feature] < *below => walk(left, row),
            Tree::Split { right, .. } => walk(right, row),
        }
    }

    proptest! {
        #[test]
        fn a_grove_answers_as_its_trees_do_one_after_the_other(
            trees in prop::collection::vec(tree(), 0..40),
            row in prop::collection::vec(
                prop_oneof![
                    20 => (-24i8..24).prop_map(|number| f32::from(number) / 4.0),
                    1 => prop::sample::select(vec![f32::INFINITY, f32::NEG_INFINITY, f32::NAN, -0.0])
                ],
                FEATURES,
            ),
        ) {
            let row: Features = row.try_into().unwrap();
            let walked = trees.iter().fold(0.0, |sum, tree| sum + walk(tree, &row));
            prop_assert_eq!(Grove::of(&trees).sum(&row), walked);
        }
    }
}
