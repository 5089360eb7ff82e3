//! What the numbers of features stand for in something written: they are written by name, so that what is read later, by a
//! Strelm that asks more or in another order, means the same.

use std::fmt::Write;

use crate::openings::features::{FEATURES, feature_of, name_of};

/// The word before the name of a feature. The first so named has the number 0 in what is written, and so on.
pub(super) const WORD: &str = "feature";

/// Features by their numbers in what is written; nothing for those that nobody asks about any more.
#[derive(Debug, Clone, Default)]
pub(super) struct Numbering(Vec<Option<usize>>);

impl Numbering {
    /// Names all features, in the order of their numbers here.
    pub fn write(into: &mut String) {
        for (name, _) in (0..FEATURES).filter_map(name_of) {
            // Writing to a string cannot fail.
            let _ = writeln!(into, "{WORD} {name}");
        }
    }

    /// Takes note of the next name: the words after [`WORD`].
    pub fn read<'w>(&mut self, words: impl Iterator<Item = &'w str>) {
        self.0.push(feature_of(&words.collect::<Vec<_>>().join(" ")));
    }

    /// The feature that has a number in what is written.
    pub fn here(&self, written: usize) -> Option<usize> {
        self.0.get(written).copied().flatten()
    }
}
