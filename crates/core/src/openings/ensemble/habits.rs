//! What the links of one site told of its authors, as it is kept with the site.

use super::Ensemble;
use super::error::EnsembleError;
use super::numbering::{self, Numbering};
use super::tree::{self, Tree};

/// Learnt by a [`Learner`](crate::openings::learning::Learner).
#[derive(Debug, Clone, PartialEq)]
pub struct Habits {
    /// Links that were learnt from.
    pub links: usize,
    shifts: Shifts,
    /// Those of each part, in the order of [`Part::ALL`](super::Part::ALL).
    trees: [Vec<Tree>; 5],
}

/// What is added for everything beside the trees, in log-odds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(in crate::openings) struct Shifts {
    pub authors: f32,
    pub editors: f32,
}

/// For whom it is judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum For {
    /// Whether the authors of the site linked a place, if it were theirs.
    Authors,
    /// Whether an editor keeps a link there. The habits say which places are like those that are linked here, but not how
    /// many an editor wants: as many as before.
    Editors,
}

impl Habits {
    pub(in crate::openings) fn of(links: usize, trees: [Vec<Tree>; 5], shifts: Shifts) -> Self {
        Self { links, shifts, trees }
    }

    /// The same with so much less in the trees of each part, and more in the shifts.
    pub(in crate::openings) fn centred(mut self, means: [f32; 5]) -> Self {
        for (trees, mean) in self.trees.iter_mut().zip(means).filter(|(trees, _)| !trees.is_empty()) {
            trees.push(Tree::Leaf(-mean));
            self.shifts.authors += mean;
            self.shifts.editors += mean;
        }
        self
    }

    /// The judge that knows these habits, too. O(trees).
    ///
    /// # Errors
    /// As [`Ensemble::new`]; none for habits that were learnt or [parsed](Self::parse).
    pub fn taught_to(&self, ensemble: &Ensemble, whom: For) -> Result<Ensemble, EnsembleError> {
        let more = match whom {
            For::Authors => self.shifts.authors,
            For::Editors => self.shifts.editors,
        };
        ensemble.and(more, self.trees.clone())
    }

    /// As it is kept: one tree a line, after what else is known.
    pub fn to_text(&self) -> String {
        let Self { links, shifts: Shifts { authors, editors }, .. } = self;
        let mut text = String::new();
        Numbering::write(&mut text);
        text.push_str(&format!("links {links}\nauthors {authors}\neditors {editors}\n"));
        tree::write_all(&self.trees, &mut text);
        text
    }

    /// Reads what [`Habits::to_text`] wrote. O(n).
    ///
    /// # Errors
    /// [`EnsembleError`] names the line; also when they ask for what nobody asks any more.
    pub fn parse(text: &str) -> Result<Self, EnsembleError> {
        let (mut links, mut authors, mut editors) = (None, None, None);
        let mut trees: [Vec<Tree>; 5] = Default::default();
        let mut numbering = Numbering::default();
        for (number, line) in (1..).zip(text.lines()) {
            let wrong = EnsembleError::Line(number);
            let mut words = line.split_ascii_whitespace();
            let finite = |word: Option<&str>| word?.parse().ok().filter(|number: &f32| number.is_finite());
            match words.next().ok_or(wrong.clone())? {
                numbering::WORD => numbering.read(words),
                "links" => links = Some(words.next().and_then(|word| word.parse().ok()).ok_or(wrong)?),
                "authors" => authors = Some(finite(words.next()).ok_or(wrong)?),
                "editors" => editors = Some(finite(words.next()).ok_or(wrong)?),
                word => tree::read_to(&mut trees, &numbering, (word, words), number)?,
            }
        }
        let shifts = authors.zip(editors).map(|(authors, editors)| Shifts { authors, editors });
        let (links, shifts) = links.zip(shifts).ok_or(EnsembleError::Line(1))?;
        Ok(Self { links, shifts, trees })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::openings::Part;
    use crate::openings::features::{FEATURES, name_of};

    fn habits() -> Habits {
        let leaf = |value| Box::new(Tree::Leaf(value));
        let mut trees: [Vec<Tree>; 5] = Default::default();
        trees[Part::Topic as usize] = vec![Tree::Split { feature: 1, below: 0.5, left: leaf(-1.5), right: leaf(2.5) }];
        Habits::of(120, trees, Shifts { authors: 0.5, editors: -0.25 })
    }

    #[test]
    fn what_is_kept_is_read_again_and_damage_is_told() {
        let habits = habits().centred([0.5; 5]);
        assert_eq!(Habits::parse(&habits.to_text()), Ok(habits));
        let damaged = ["", "\n", "features 3", "links x", "links 3\nauthors inf", "authors 0\neditors 0"];
        for damaged in [&damaged[..], &["links 3\nauthors 0", "links 3\nauthors 0\neditors"]].concat() {
            assert!(matches!(Habits::parse(damaged), Err(EnsembleError::Line(1..=3))), "{damaged:?}");
        }
        let (topic, _) = name_of(0).unwrap();
        let of_another = format!("feature {topic}\nlinks 3\nauthors 0\nplace 0:0.5 =1 =2");
        assert_eq!(Habits::parse(&of_another), Err(EnsembleError::Part(4)));
    }

    #[test]
    fn what_was_learnt_is_added_and_shifted_for_authors_and_for_editors() {
        let ensemble = Ensemble::shipped().unwrap();
        for habits in [habits(), habits().centred([0.75, 3.0, 0.0, 0.0, 0.0])] {
            let change = |whom, value| {
                let mut features = [0.0; FEATURES];
                features[1] = value;
                habits.taught_to(&ensemble, whom).unwrap().log_odds(&features) - ensemble.log_odds(&features)
            };
            let near = |found: f32, wanted: f32| (found - wanted).abs() < 1e-4;
            assert!(near(change(For::Authors, 0.0), -1.0) && near(change(For::Authors, 1.0), 3.0));
            assert!(near(change(For::Editors, 0.0), -1.75) && near(change(For::Editors, 1.0), 2.25));
        }
    }
}
