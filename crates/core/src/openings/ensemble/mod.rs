//! The trained judge: small trees for each part of a fit, whose answers only add up. `cargo xtask train` writes the file
//! that is read here.

mod error;
mod grove;
mod habits;
mod numbering;
mod tree;

use std::fmt::Write;

pub use self::error::EnsembleError;
use self::grove::Grove;
pub(super) use self::habits::Shifts;
pub use self::habits::{For, Habits};
use self::numbering::Numbering;
use self::tree::MOST_DEPTH;
pub use self::tree::Tree;
use super::features::Features;
use super::part::Part;

/// What a part adds to the log-odds: from little to much among all that is found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PartRange {
    pub low: f32,
    pub high: f32,
}

/// What log-odds turned out to be on sites that were not learnt from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Promise {
    pub said: f32,
    pub kept: f32,
}

/// The judge of openings: trees for each part of a fit, whose sum is the fit's log-odds.
#[derive(Debug, Clone, PartialEq)]
pub struct Ensemble {
    /// Log-odds before anything is known.
    bias: f32,
    ranges: [PartRange; 5],
    trees: [Vec<Tree>; 5],
    promises: Vec<Promise>,
    groves: [Grove; 5],
}

impl Ensemble {
    /// `trees` are those of each part, in the order of [`Part::ALL`].
    ///
    /// # Errors
    /// [`EnsembleError::Deep`].
    pub fn new(bias: f32, ranges: [PartRange; 5], trees: [Vec<Tree>; 5]) -> Result<Self, EnsembleError> {
        if trees.iter().flatten().any(|tree| tree.depth() > MOST_DEPTH) {
            return Err(EnsembleError::Deep);
        }
        let groves = trees.each_ref().map(|trees| Grove::of(trees));
        Ok(Self { bias, ranges, trees, promises: Vec::new(), groves })
    }

    /// The same with so much more for everything, and more trees beside its own. O(trees), as [`Ensemble::new`].
    fn and(&self, more: f32, more_trees: [Vec<Tree>; 5]) -> Result<Self, EnsembleError> {
        let mut trees = self.trees.clone();
        trees.iter_mut().zip(more_trees).for_each(|(trees, more)| trees.extend(more));
        Ok(Self { promises: self.promises.clone(), ..Self::new(self.bias + more, self.ranges, trees)? })
    }

    /// The same where the parts add from little to much like this.
    pub fn ranging(self, ranges: [PartRange; 5]) -> Self {
        Self { ranges, ..self }
    }

    /// The same with what its log-odds promise: places on a rising line, in order. Between them it is straight, beyond
    /// them it goes on as it did.
    pub fn promising(&self, promises: Vec<Promise>) -> Self {
        Self { promises, ..self.clone() }
    }

    /// The log-odds that are kept where these parts add up to `sum`, as far as sites tell that were not learnt from; and
    /// how steeply they rise there. O(log places).
    pub fn promise(&self, sum: f32) -> (f32, f32) {
        let log_odds = self.bias + sum;
        let next =
            self.promises.partition_point(|place| place.said <= log_odds).clamp(1, self.promises.len().max(2) - 1);
        let Some((from, to)) = self.promises.get(next - 1).zip(self.promises.get(next)) else { return (log_odds, 1.0) };
        let rise = (to.kept - from.kept) / (to.said - from.said).max(1e-3);
        (from.kept + (log_odds - from.said) * rise, rise)
    }

    /// The same without what one part says, to see what it is worth.
    pub fn without(&self, part: Part) -> Self {
        let mut without = self.clone();
        without.trees[part as usize].clear();
        without.groves[part as usize] = Grove::default();
        without
    }

    /// The same for ensembles that judge alike. O(n).
    pub fn mark(&self) -> [u8; 32] {
        *blake3::hash(self.to_text().as_bytes()).as_bytes()
    }

    /// The log-odds of a place of which nothing is known.
    pub fn bias(&self) -> f32 {
        self.bias
    }

    /// What each part can add to a fit, least and most, in the order of [`Part::ALL`].
    pub fn ranges(&self) -> [PartRange; 5] {
        self.ranges
    }

    /// The trees of each part, in the order of [`Part::ALL`].
    pub fn trees(&self) -> &[Vec<Tree>; 5] {
        &self.trees
    }

    /// What the five parts add to the log-odds. Cost for each part as [`Grove::sum`].
    pub fn parts(&self, features: &Features) -> [f32; 5] {
        self.groves.each_ref().map(|grove| grove.sum(features))
    }

    /// What one part adds; only the features of that part are looked at.
    pub fn part(&self, part: Part, features: &Features) -> f32 {
        self.groves[part as usize].sum(features)
    }

    /// The log-odds that an editor keeps what has these features.
    pub fn log_odds(&self, features: &Features) -> f32 {
        self.bias + self.parts(features).iter().sum::<f32>()
    }

    /// The judge that comes with Strelm.
    ///
    /// # Errors
    /// [`EnsembleError`] when the file was damaged before it was built in.
    pub fn shipped() -> Result<Self, EnsembleError> {
        Self::parse(include_str!("../weights.txt"))
    }

    /// As the weights are kept: one tree a line.
    pub fn to_text(&self) -> String {
        let mut text = String::new();
        Numbering::write(&mut text);
        let _ = writeln!(text, "bias {}", self.bias);
        for (part, range) in Part::ALL.iter().zip(&self.ranges) {
            let _ = writeln!(text, "range {} {} {}", part.as_str(), range.low, range.high);
        }
        for Promise { said, kept } in &self.promises {
            let _ = writeln!(text, "promise {said} {kept}");
        }
        tree::write_all(&self.trees, &mut text);
        text
    }

    /// Reads what [`Ensemble::to_text`] wrote. Lines that begin with `#` say what was trained on. O(n).
    ///
    /// # Errors
    /// [`EnsembleError`] names the line.
    pub fn parse(text: &str) -> Result<Self, EnsembleError> {
        let (mut bias, mut ranges) = (0.0, [PartRange { low: 0.0, high: 1.0 }; 5]);
        let mut trees: [Vec<Tree>; 5] = std::array::from_fn(|_| Vec::new());
        let mut promises: Vec<Promise> = Vec::new();
        let mut numbering = Numbering::default();
        for (number, line) in (1..).zip(text.lines()) {
            let wrong = EnsembleError::Line(number);
            let mut words = line.split_ascii_whitespace();
            let part_of = |word: &str| Part::ALL.iter().position(|part| part.as_str() == word);
            let value = |words: &mut std::str::SplitAsciiWhitespace<'_>| -> Option<f32> { words.next()?.parse().ok() };
            match words.next() {
                None => {}
                Some(word) if word.starts_with('#') => {}
                Some(numbering::WORD) => numbering.read(words),
                Some("bias") => bias = value(&mut words).ok_or(wrong)?,
                Some("promise") => {
                    let (said, kept) = value(&mut words).zip(value(&mut words)).ok_or(wrong.clone())?;
                    let rises = promises.last().is_none_or(|before| before.said < said && before.kept <= kept);
                    promises.push(rises.then_some(Promise { said, kept }).ok_or(wrong)?);
                }
                Some("range") => {
                    let part = words.next().and_then(part_of).ok_or(wrong.clone())?;
                    let (low, high) = value(&mut words).zip(value(&mut words)).ok_or(wrong)?;
                    ranges[part] = PartRange { low, high };
                }
                Some(word) => tree::read_to(&mut trees, &numbering, (word, words), number)?,
            }
        }
        Ok(Self { promises, ..Self::new(bias, ranges, trees)? })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::openings::features::{FEATURES, name_of};

    #[test]
    fn what_is_written_is_read_again_and_answers_alike() {
        let leaf = |value| Box::new(Tree::Leaf(value));
        let tree = Tree::Split { feature: 1, below: 0.5, left: leaf(-1.25), right: leaf(2.0) };
        let mut trees = std::array::from_fn(|_| Vec::new());
        trees[0] = vec![tree, Tree::Leaf(0.0)];
        let promise = |said, kept| Promise { said, kept };
        let promises = vec![promise(-4.0, -3.0), promise(0.0, -1.0), promise(2.0, 0.0)];
        let ensemble = Ensemble::new(-3.5, [PartRange { low: -1.0, high: 2.5 }; 5], trees).unwrap().promising(promises);
        let text = ensemble.to_text();
        assert_eq!(Ensemble::parse(&format!("# trained on nothing\n{text}")), Ok(ensemble.clone()));
        let mut features = [0.0; FEATURES];
        assert_eq!(ensemble.log_odds(&features), -4.75);
        features[1] = 0.5;
        assert_eq!(ensemble.log_odds(&features), -1.5);
        assert_eq!(ensemble.parts(&features), [2.0, 0.0, 0.0, 0.0, 0.0]);
        for (sum, kept) in
            [(-2.5, (-4.0, 0.5)), (1.5, (-2.0, 0.5)), (3.5, (-1.0, 0.5)), (4.5, (-0.5, 0.5)), (7.5, (1.0, 0.5))]
        {
            assert_eq!(ensemble.promise(sum), kept, "{sum}");
        }
        let plain = Ensemble::new(1.0, ensemble.ranges(), ensemble.trees().clone()).unwrap();
        assert_eq!(plain.promise(2.0), (3.0, 1.0), "without promises it says what it learnt");
    }

    #[test]
    fn the_shipped_weights_can_be_read() {
        assert!(Ensemble::shipped().unwrap().trees.iter().all(|trees| !trees.is_empty()));
    }

    #[test]
    fn weights_mean_the_same_whatever_numbers_their_features_have() {
        let (topic, other) = (name_of(0).unwrap().0, name_of(5).unwrap().0);
        let in_another_order = format!("feature {other}\nfeature of old\nfeature {topic}\ntopic 2:0.5 =1 =2");
        let ensemble = Ensemble::parse(&in_another_order).unwrap();
        let mut features = [0.0; FEATURES];
        assert_eq!(ensemble.log_odds(&features), 1.0);
        features[0] = 0.5;
        assert_eq!(ensemble.log_odds(&features), 2.0);
        let of_old = in_another_order.replace("2:0.5", "1:0.5");
        assert_eq!(Ensemble::parse(&of_old), Err(EnsembleError::Line(4)), "nobody asks that any more");
    }

    #[test]
    fn parts_keep_to_their_own_and_damage_is_told() {
        let mut named = String::new();
        Numbering::write(&mut named);
        let line = FEATURES + 1;
        assert_eq!(Ensemble::parse(&format!("{named}place 1:0.5 =1 =2")), Err(EnsembleError::Part(line)));
        for damaged in [
            "bias x",
            "tree 1",
            "topic 1:0.5 =1",
            "topic 99:0 =1 =1",
            "topic 1:nan =1 =2",
            "range topic 1",
            "features 3",
            "promise 1 x",
        ] {
            assert_eq!(Ensemble::parse(&format!("{named}{damaged}")), Err(EnsembleError::Line(line)), "{damaged}");
        }
        let deep = (0..5).fold("=1".to_owned(), |tree, _| format!("1:0.5 =0 {tree}"));
        assert_eq!(Ensemble::parse(&format!("{named}topic {deep}")), Err(EnsembleError::Line(line)));
        let leaf = || Box::new(Tree::Leaf(0.0));
        let deep =
            (0..5).fold(*leaf(), |tree, _| Tree::Split { feature: 1, below: 0.5, left: leaf(), right: Box::new(tree) });
        let trees = [vec![deep], vec![], vec![], vec![], vec![]];
        assert_eq!(Ensemble::new(0.0, [PartRange { low: 0.0, high: 1.0 }; 5], trees), Err(EnsembleError::Deep));
    }
}
