//! Looking for rows of bytes.

use std::ops::Range;

use aho_corasick::{AhoCorasick, Input, MatchKind};
use memchr::memmem;

/// So many rows are looked for one by one, which is quicker: each by the letters of it that are rare.
const FEW: usize = 16;

/// Looks for rows of bytes, of which the longest of those that begin at the same place counts.
#[derive(Debug, Clone)]
pub(super) enum Finder {
    Few(Vec<memmem::Finder<'static>>),
    Many(AhoCorasick),
}

/// Where each row comes next in bytes that are looked through.
pub(super) struct Search<'f> {
    finder: &'f Finder,
    /// For each of a few rows; `None` where it does not come any more.
    next: Vec<Option<usize>>,
}

impl Finder {
    /// Of two rows that begin alike the longer one comes first. `None` when there are none, or too many.
    pub fn of<'r>(rows: impl Iterator<Item = &'r [u8]>) -> Option<Self> {
        let rows: Vec<&[u8]> = rows.collect();
        match rows.len() {
            0 => None,
            few if few <= FEW => {
                Some(Self::Few(rows.iter().map(|row| memmem::Finder::new(row).into_owned()).collect()))
            }
            _ => AhoCorasick::builder().match_kind(MatchKind::LeftmostFirst).build(rows).ok().map(Self::Many),
        }
    }

    /// Begins to look through bytes.
    pub fn search(&self, bytes: &[u8]) -> Search<'_> {
        let next = match self {
            Self::Few(rows) => rows.iter().map(|row| row.find(bytes)).collect(),
            Self::Many(_) => Vec::new(),
        };
        Search { finder: self, next }
    }
}

impl Search<'_> {
    /// The first row that begins at a place or after it, and where. Places only rise.
    pub fn next(&mut self, bytes: &[u8], from: usize) -> Option<(usize, Range<usize>)> {
        match self.finder {
            Finder::Few(rows) => {
                for (row, next) in rows.iter().zip(&mut self.next) {
                    if next.is_some_and(|at| at < from) {
                        *next = row.find(&bytes[from..]).map(|at| from + at);
                    }
                }
                let first = self.next.iter().enumerate().filter_map(|(row, next)| Some(((*next)?, row))).min();
                first.map(|(at, row)| (row, at..at + rows[row].needle().len()))
            }
            Finder::Many(rows) => {
                let found = rows.find(Input::new(bytes).range(from..))?;
                Some((found.pattern().as_usize(), found.range()))
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn few_rows_are_found_as_many_are(
            rows in prop::collection::btree_set("[ab]{1,4}", 1..6), text in "[ab]{0,40}", steps in prop::collection::vec(1..5usize, 12),
        ) {
            let mut rows: Vec<&[u8]> = rows.iter().map(String::as_bytes).collect();
            rows.sort_by_key(|row| usize::MAX - row.len());
            let few = Finder::of(rows.iter().copied()).unwrap();
            let many = AhoCorasick::builder().match_kind(MatchKind::LeftmostFirst).build(&rows).map(Finder::Many).unwrap();
            let (mut one, mut other) = (few.search(text.as_bytes()), many.search(text.as_bytes()));
            let mut from = 0;
            for step in steps {
                let found = one.next(text.as_bytes(), from);
                prop_assert_eq!(&found, &other.next(text.as_bytes(), from));
                let Some((_, place)) = found else { break };
                from = (place.start + step).min(text.len());
            }
        }
    }
}
