//! Trees that ask one question after the other, and how they are written down.

use std::fmt::Write;

use super::error::EnsembleError;
use super::numbering::Numbering;
use crate::openings::features::name_of;
use crate::openings::part::Part;

/// Questions in a row, at most.
pub(super) const MOST_DEPTH: usize = 4;

/// A small decision tree over features.
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

/// Why a written tree is none.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Misread {
    Damaged,
    /// It asks for what belongs to another part.
    Part,
}

impl Tree {
    pub(super) fn depth(&self) -> usize {
        match self {
            Self::Leaf(_) => 0,
            Self::Split { left, right, .. } => 1 + left.depth().max(right.depth()),
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

    /// Reads what [`Tree::write`] wrote, as the tree of a part.
    fn read_at<'w>(
        words: &mut impl Iterator<Item = &'w str>,
        (part, numbering): (Part, &Numbering),
        depth: usize,
    ) -> Result<Self, Misread> {
        let word = words.next().ok_or(Misread::Damaged)?;
        let number = |word: &str| word.parse().ok().filter(|number: &f32| number.is_finite()).ok_or(Misread::Damaged);
        if let Some(value) = word.strip_prefix('=') {
            return Ok(Self::Leaf(number(value)?));
        }
        let (feature, below) = word.split_once(':').filter(|_| depth < MOST_DEPTH).ok_or(Misread::Damaged)?;
        let written: usize = feature.parse().map_err(|_| Misread::Damaged)?;
        let feature = numbering.here(written).ok_or(Misread::Damaged)?;
        if name_of(feature).is_none_or(|(_, of)| of != part) {
            return Err(Misread::Part);
        }
        let below = number(below)?;
        let left = Box::new(Self::read_at(words, (part, numbering), depth + 1)?);
        let right = Box::new(Self::read_at(words, (part, numbering), depth + 1)?);
        Ok(Self::Split { feature, below, left, right })
    }
}

/// Writes the trees of each part, one a line.
pub(super) fn write_all(trees: &[Vec<Tree>; 5], into: &mut String) {
    for (part, trees) in Part::ALL.iter().zip(trees) {
        for tree in trees {
            into.push_str(part.as_str());
            tree.write(into);
            into.push('\n');
        }
    }
}

/// Reads a line that [`write_all`] wrote to the trees of its part: the first of its words, and the others.
pub(super) fn read_to<'w>(
    trees: &mut [Vec<Tree>; 5],
    numbering: &Numbering,
    (first, mut words): (&str, impl Iterator<Item = &'w str>),
    line: usize,
) -> Result<(), EnsembleError> {
    let part = Part::ALL.into_iter().find(|part| part.as_str() == first).ok_or(EnsembleError::Line(line))?;
    let tree = Tree::read_at(&mut words, (part, numbering), 0).map_err(|misread| match misread {
        Misread::Damaged => EnsembleError::Line(line),
        Misread::Part => EnsembleError::Part(line),
    })?;
    trees[part as usize].push(tree);
    Ok(())
}
