//! Trees that ask one question after the other, and how they are written down.

use std::fmt::Write;

use crate::openings::features::NAMES;
use crate::openings::fit::Part;

/// Questions in a row, at most.
pub(super) const MOST_DEPTH: usize = 4;

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
pub(super) enum Misread {
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

    pub(super) fn write(&self, into: &mut String) {
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
    pub(super) fn read<'w>(words: &mut impl Iterator<Item = &'w str>, part: Part) -> Result<Self, Misread> {
        Self::read_at(words, part, 0)
    }

    fn read_at<'w>(words: &mut impl Iterator<Item = &'w str>, part: Part, depth: usize) -> Result<Self, Misread> {
        let word = words.next().ok_or(Misread::Damaged)?;
        let number = |word: &str| word.parse().ok().filter(|number: &f32| number.is_finite()).ok_or(Misread::Damaged);
        if let Some(value) = word.strip_prefix('=') {
            return Ok(Self::Leaf(number(value)?));
        }
        let (feature, below) = word.split_once(':').filter(|_| depth < MOST_DEPTH).ok_or(Misread::Damaged)?;
        let feature: usize = feature.parse().map_err(|_| Misread::Damaged)?;
        let (_, of) = NAMES.get(feature).ok_or(Misread::Damaged)?;
        if *of != part {
            return Err(Misread::Part);
        }
        let below = number(below)?;
        let left = Box::new(Self::read_at(words, part, depth + 1)?);
        let right = Box::new(Self::read_at(words, part, depth + 1)?);
        Ok(Self::Split { feature, below, left, right })
    }
}
