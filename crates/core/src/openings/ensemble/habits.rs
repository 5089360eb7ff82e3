//! What the links of one site told of its authors, as it is kept with the site.

use super::tree::{self, Tree};
use super::{Ensemble, EnsembleError};
use crate::openings::features::FEATURES;

/// Learnt by a [`Learner`](crate::openings::learning::Learner).
#[derive(Debug, Clone, PartialEq)]
pub struct Habits {
    /// Links that were learnt from.
    pub links: usize,
    /// How much more freely the authors of the site link than those of others, in log-odds.
    freely: f32,
    /// Those of each part, in the order of [`Part::ALL`]. On the places that were learnt from, where it was not clear
    /// anyhow whether they are links, what each part adds makes up nothing in the mean.
    trees: [Vec<Tree>; 5],
}

/// For whom it is judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum For {
    /// Whether the authors of the site linked a place, if it were theirs.
    Authors,
    /// Whether an editor keeps a link there. The habits say which places are like those that are linked here, but not how
    /// many an editor wants: where all that deserves a link has one, few are wanted, and where hardly anything has, many.
    Editors,
}

impl Habits {
    /// `trees` as they were learnt, with what those of each part add in the mean.
    pub(in crate::openings) fn of(links: usize, mut trees: [Vec<Tree>; 5], means: [f32; 5]) -> Self {
        for (trees, mean) in trees.iter_mut().zip(means) {
            if !trees.is_empty() {
                trees.push(Tree::Leaf(-mean));
            }
        }
        Self { links, freely: means.iter().sum(), trees }
    }

    /// How much more freely the authors of the site link than those of others: a factor of the odds.
    pub fn freely(&self) -> f32 {
        self.freely.exp()
    }

    /// The judge that knows these habits, too. O(trees).
    ///
    /// # Errors
    /// As [`Ensemble::new`]; none for habits that were learnt or [parsed](Self::parse).
    pub fn taught_to(&self, ensemble: &Ensemble, whom: For) -> Result<Ensemble, EnsembleError> {
        let more = match whom {
            For::Authors => self.freely,
            For::Editors => 0.0,
        };
        ensemble.and(more, self.trees.clone())
    }

    /// As it is kept: one tree a line, after what else is known.
    pub fn to_text(&self) -> String {
        let mut text = format!("features {FEATURES}\nlinks {}\nfreely {}\n", self.links, self.freely);
        tree::write_all(&self.trees, &mut text);
        text
    }

    /// Reads what [`Habits::to_text`] wrote. O(n).
    ///
    /// # Errors
    /// [`EnsembleError`] names the line; also when they were learnt by a Strelm that asked for other features.
    pub fn parse(text: &str) -> Result<Self, EnsembleError> {
        let (mut links, mut freely) = (None, None);
        let mut trees: [Vec<Tree>; 5] = Default::default();
        for (number, line) in (1..).zip(text.lines()) {
            let wrong = EnsembleError::Line(number);
            let mut words = line.split_ascii_whitespace();
            match words.next().ok_or(wrong.clone())? {
                "features" if words.next() == Some(&FEATURES.to_string()) => {}
                "links" => links = Some(words.next().and_then(|word| word.parse().ok()).ok_or(wrong)?),
                "freely" => {
                    let number =
                        words.next().and_then(|word| word.parse().ok()).filter(|number: &f32| number.is_finite());
                    freely = Some(number.ok_or(wrong)?);
                }
                word => tree::read_to(&mut trees, (word, words), number)?,
            }
        }
        let (links, freely) = links.zip(freely).ok_or(EnsembleError::Line(1))?;
        Ok(Self { links, freely, trees })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::openings::Part;

    fn habits() -> Habits {
        let leaf = |value| Box::new(Tree::Leaf(value));
        let mut trees: [Vec<Tree>; 5] = Default::default();
        trees[Part::Topic as usize] = vec![Tree::Split { feature: 1, below: 0.5, left: leaf(-1.5), right: leaf(2.5) }];
        Habits::of(120, trees, [0.5, 0.0, 0.0, 0.0, 0.0])
    }

    #[test]
    fn what_is_kept_is_read_again_and_damage_is_told() {
        let text = habits().to_text();
        assert_eq!(Habits::parse(&text), Ok(habits()));
        for damaged in
            ["", "features 3", "links x", "links 3\nfreely inf", "links 3", "links 3\nfreely 0\ntopic 1:0.5 =1", "\n"]
        {
            assert!(matches!(Habits::parse(damaged), Err(EnsembleError::Line(1..=3))), "{damaged:?}");
        }
        assert_eq!(Habits::parse("links 3\nfreely 0\nplace 1:0.5 =1 =2"), Err(EnsembleError::Part(3)));
    }

    #[test]
    fn authors_link_more_freely_and_an_editor_is_told_only_which_places_are_like_theirs() {
        let ensemble = Ensemble::shipped().unwrap();
        let change = |whom, value| {
            let mut features = [0.0; FEATURES];
            features[1] = value;
            habits().taught_to(&ensemble, whom).unwrap().log_odds(&features) - ensemble.log_odds(&features)
        };
        let near = |found: f32, wanted: f32| (found - wanted).abs() < 1e-4;
        assert!(near(change(For::Authors, 0.0), -1.5) && near(change(For::Authors, 1.0), 2.5));
        assert!(near(change(For::Editors, 0.0), -2.0) && near(change(For::Editors, 1.0), 2.0));
    }
}
