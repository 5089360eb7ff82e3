//! Rows of words that a page repeats.

use rustc_hash::FxHashMap;

use super::token::{Token, TokenMarks};

/// A page speaks of a phrase that stands on it so often.
pub(super) const LEAST: u32 = 3;

/// Longer rows of words that are repeated are quotations.
pub(super) const LONGEST: usize = 4;

/// A row of words that a page repeats: where it stands first, and how often it does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Repeated {
    pub first: u32,
    pub len: u8,
    pub count: u32,
}

impl Repeated {
    /// The tokens of its first occurrence.
    pub fn tokens(self, of: &[Token]) -> &[Token] {
        let first = self.first as usize;
        of.get(first..first + usize::from(self.len)).unwrap_or_default()
    }

    /// How much of the page it takes.
    pub fn weight(self) -> u32 {
        self.count * u32::from(self.len)
    }
}

/// Rows of two to four words that may carry a link together and stand on a page three times or more, in the order of their
/// length and then of their places. A longer row is only looked for where both of its shorter ones are repeated (Agrawal
/// and Srikant, “Fast algorithms for mining association rules”, 1994). O(tokens).
pub(super) fn repeated(tokens: &[Token]) -> Vec<Repeated> {
    let mut found = Vec::new();
    // By place: the number of the row that begins there, when it is repeated.
    let mut rows: Vec<Option<u32>> = tokens.iter().map(|token| Some(token.term().0)).collect();
    for len in 2..=LONGEST {
        let joined = |at: usize| tokens[at + len - 1].has(TokenMarks::JOINED);
        let key = |at: usize| Some((rows[at]?, rows.get(at + 1).copied().flatten()?));
        let places = 0..(tokens.len() + 1).saturating_sub(len);
        let mut counted: FxHashMap<(u32, u32), Repeated> = FxHashMap::default();
        for at in places.clone().filter(|at| joined(*at)) {
            let Some(key) = key(at) else { continue };
            let (first, len) = (u32::try_from(at).unwrap_or(u32::MAX), u8::try_from(len).unwrap_or(u8::MAX));
            counted.entry(key).or_insert(Repeated { first, len, count: 0 }).count += 1;
        }
        let longer: Vec<_> = places
            .map(|at| {
                let row = counted.get(&key(at).filter(|_| joined(at))?)?;
                (row.count >= LEAST).then_some(row.first)
            })
            .collect();
        rows = longer;
        let before = found.len();
        found.extend(counted.into_values().filter(|row| row.count >= LEAST));
        found[before..].sort_unstable_by_key(|row| row.first);
    }
    found
}
