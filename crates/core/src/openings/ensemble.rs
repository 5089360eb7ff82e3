//! The trained judge: small trees for each part of a fit, whose answers only add up. `cargo xtask train` writes the file
//! that is read here.

use std::fmt::Write;

use thiserror::Error;

use super::features::{FEATURES, Features};
use super::fit::Part;

/// Deeper trees are a damaged file.
const MOST_DEPTH: usize = 12;

#[derive(Debug, Clone, PartialEq)]
pub enum Tree {
    Leaf(f32),
    /// Smaller values go left.
    Split {
        feature: usize,
        below: f32,
        left: Box<Tree>,
        right: Box<Tree>,
    },
}

#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum EnsembleError {
    #[error("line {0} of the weights cannot be understood")]
    Line(usize),
    #[error("line {0} of the weights lets a part judge what belongs to another")]
    Part(usize),
}

/// What a part adds to the log-odds: from little to much among all that is found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Range {
    pub low: f32,
    pub high: f32,
}

/// What log-odds turned out to be on sites that were not learnt from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Promise {
    pub said: f32,
    pub kept: f32,
}

#[derive(Debug, Clone, PartialEq)]
pub struct Ensemble {
    /// Log-odds before anything is known.
    bias: f32,
    ranges: [Range; 5],
    trees: [Vec<Tree>; 5],
    promises: Vec<Promise>,
    /// The trees of each part, made for speed.
    flat: [Vec<Node>; 5],
}

/// A node in a row of trees, each written from its root on: what is left of a split follows it.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Node {
    /// No feature: a leaf, whose value stands in `below`.
    feature: u16,
    /// How many nodes on what is right of the split stands; behind a leaf the next tree begins.
    right: u16,
    below: f32,
}

const LEAF: u16 = u16::MAX;

impl Tree {
    /// O(nodes).
    fn flatten(&self, into: &mut Vec<Node>) {
        match self {
            Self::Leaf(value) => into.push(Node { feature: LEAF, right: 0, below: *value }),
            Self::Split { feature, below, left, right } => {
                let at = into.len();
                // A number of a feature fits: there are some tens.
                into.push(Node { feature: *feature as u16, right: 0, below: *below });
                left.flatten(into);
                into[at].right = (into.len() - at) as u16;
                right.flatten(into);
            }
        }
    }

    fn write(&self, into: &mut String) {
        // Writing to a string cannot fail.
        let _ = match self {
            Self::Leaf(value) => write!(into, " ={value}"),
            Self::Split { feature, below, left, right } => {
                let _ = write!(into, " {feature}:{below}");
                left.write(into);
                right.write(into);
                Ok(())
            }
        };
    }

    fn read<'w>(words: &mut impl Iterator<Item = &'w str>, part: Part, depth: usize) -> Option<Result<Self, ()>> {
        let word = words.next().filter(|_| depth < MOST_DEPTH)?;
        if let Some(value) = word.strip_prefix('=') {
            return Some(Ok(Self::Leaf(value.parse().ok()?)));
        }
        let (feature, below) = word.split_once(':')?;
        let (feature, below): (usize, f32) = (feature.parse().ok()?, below.parse().ok()?);
        if super::features::NAMES.get(feature)?.1 != part {
            return Some(Err(()));
        }
        let left = match Self::read(words, part, depth + 1)? {
            Ok(left) => Box::new(left),
            Err(()) => return Some(Err(())),
        };
        let right = match Self::read(words, part, depth + 1)? {
            Ok(right) => Box::new(right),
            Err(()) => return Some(Err(())),
        };
        Some(Ok(Self::Split { feature, below, left, right }))
    }
}

impl Ensemble {
    /// `trees` are those of each part, in the order of [`Part::ALL`].
    pub fn new(bias: f32, ranges: [Range; 5], trees: [Vec<Tree>; 5]) -> Self {
        let mut flat: [Vec<Node>; 5] = std::array::from_fn(|_| Vec::new());
        for (trees, flat) in trees.iter().zip(&mut flat) {
            for tree in trees {
                let start = flat.len();
                tree.flatten(flat);
                let end = flat.len();
                for (at, node) in (start..end).zip(&mut flat[start..]) {
                    if node.feature == LEAF {
                        node.right = (end - at) as u16;
                    }
                }
            }
        }
        Self { bias, ranges, trees, promises: Vec::new(), flat }
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
        let mut trees = self.trees.clone();
        trees[part as usize].clear();
        Self { promises: self.promises.clone(), ..Self::new(self.bias, self.ranges, trees) }
    }

    pub fn bias(&self) -> f32 {
        self.bias
    }

    pub fn ranges(&self) -> [Range; 5] {
        self.ranges
    }

    pub fn trees(&self) -> &[Vec<Tree>; 5] {
        &self.trees
    }

    /// What the five parts add to the log-odds. O(trees × depth).
    pub fn parts(&self, features: &Features) -> [f32; 5] {
        self.flat.each_ref().map(|nodes| sum(nodes, features))
    }

    /// What one part adds; only the features of that part are looked at.
    pub fn part(&self, part: Part, features: &Features) -> f32 {
        sum(&self.flat[part as usize], features)
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
        Self::parse(include_str!("weights.txt"))
    }

    /// As the weights are kept: one tree a line.
    pub fn to_text(&self) -> String {
        let mut text = format!("features {FEATURES}\nbias {}\n", self.bias);
        for (part, range) in Part::ALL.iter().zip(&self.ranges) {
            let _ = writeln!(text, "range {} {} {}", part.as_str(), range.low, range.high);
        }
        for Promise { said, kept } in &self.promises {
            let _ = writeln!(text, "promise {said} {kept}");
        }
        for (part, trees) in Part::ALL.iter().zip(&self.trees) {
            for tree in trees {
                text.push_str(part.as_str());
                tree.write(&mut text);
                text.push('\n');
            }
        }
        text
    }

    /// Reads what [`Ensemble::to_text`] wrote. Lines that begin with `#` say what was trained on. O(n).
    ///
    /// # Errors
    /// [`EnsembleError`] names the line.
    pub fn parse(text: &str) -> Result<Self, EnsembleError> {
        let (mut bias, mut ranges) = (0.0, [Range { low: 0.0, high: 1.0 }; 5]);
        let mut trees: [Vec<Tree>; 5] = std::array::from_fn(|_| Vec::new());
        let mut promises: Vec<Promise> = Vec::new();
        for (number, line) in (1..).zip(text.lines()) {
            let wrong = EnsembleError::Line(number);
            let mut words = line.split_ascii_whitespace();
            let part_of = |word: &str| Part::ALL.iter().position(|part| part.as_str() == word);
            let value = |words: &mut std::str::SplitAsciiWhitespace<'_>| -> Option<f32> { words.next()?.parse().ok() };
            match words.next() {
                None => {}
                Some(word) if word.starts_with('#') => {}
                Some("features") if words.next() == Some(&FEATURES.to_string()) => {}
                Some("bias") => bias = value(&mut words).ok_or(wrong)?,
                Some("promise") => {
                    let (said, kept) = value(&mut words).zip(value(&mut words)).ok_or(wrong.clone())?;
                    let rises = promises.last().is_none_or(|before| before.said < said && before.kept <= kept);
                    promises.push(rises.then_some(Promise { said, kept }).ok_or(wrong)?);
                }
                Some("range") => {
                    let part = words.next().and_then(part_of).ok_or(wrong.clone())?;
                    let (low, high) = value(&mut words).zip(value(&mut words)).ok_or(wrong)?;
                    ranges[part] = Range { low, high };
                }
                Some(word) => {
                    let part = part_of(word).ok_or(wrong.clone())?;
                    let tree = Tree::read(&mut words, Part::ALL[part], 0).ok_or(wrong)?;
                    trees[part].push(tree.map_err(|()| EnsembleError::Part(number))?);
                }
            }
        }
        Ok(Self { promises, ..Self::new(bias, ranges, trees) })
    }
}

/// The sum of what a row of trees answers.
fn sum(nodes: &[Node], features: &Features) -> f32 {
    let (mut at, mut sum) = (0, 0.0);
    while let Some(node) = nodes.get(at) {
        match features.get(usize::from(node.feature)) {
            Some(value) if *value < node.below => at += 1,
            Some(_) => at += usize::from(node.right),
            None => {
                sum += node.below;
                at += usize::from(node.right);
            }
        }
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_written_is_read_again_and_answers_alike() {
        let leaf = |value| Box::new(Tree::Leaf(value));
        let tree = Tree::Split { feature: 1, below: 0.5, left: leaf(-1.25), right: leaf(2.0) };
        let mut trees = std::array::from_fn(|_| Vec::new());
        trees[0] = vec![tree, Tree::Leaf(0.0)];
        let promise = |said, kept| Promise { said, kept };
        let ensemble = Ensemble::new(-3.5, [Range { low: -1.0, high: 2.5 }; 5], trees).promising(vec![
            promise(-4.0, -3.0),
            promise(0.0, -1.0),
            promise(2.0, 0.0),
        ]);
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
        let plain = Ensemble::new(1.0, ensemble.ranges(), ensemble.trees().clone());
        assert_eq!(plain.promise(2.0), (3.0, 1.0), "without promises it says what it learnt");
    }

    #[test]
    fn the_shipped_weights_can_be_read() {
        assert!(Ensemble::shipped().unwrap().trees.iter().all(|trees| !trees.is_empty()));
    }

    #[test]
    fn parts_keep_to_their_own_and_damage_is_told() {
        assert_eq!(Ensemble::parse("bias 0\nplace 1:0.5 =1 =2"), Err(EnsembleError::Part(2)));
        for damaged in
            ["bias x", "tree 1", "topic 1:0.5 =1", "topic 99:0 =1 =1", "range topic 1", "features 3", "promise 1 x"]
        {
            assert_eq!(Ensemble::parse(damaged), Err(EnsembleError::Line(1)), "{damaged}");
        }
    }
}
