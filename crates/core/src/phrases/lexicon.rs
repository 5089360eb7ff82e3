//! Terms as numbers.

use std::collections::HashMap;

use crate::weight::{piece, table};

/// A folded, stemmed word of the site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct TermId(pub u32);

/// Numbers for terms. Terms are never forgotten.
#[derive(Debug, Default)]
pub struct Lexicon {
    terms: HashMap<Box<str>, TermId>,
}

impl Lexicon {
    /// The number of a term, a new one where it has none yet. O(1).
    pub fn intern(&mut self, term: &str) -> TermId {
        if let Some(id) = self.terms.get(term) {
            return *id;
        }
        let id = TermId(u32::try_from(self.terms.len()).unwrap_or(u32::MAX));
        self.terms.insert(term.into(), id);
        id
    }

    /// Bytes on the heap. O(terms).
    pub(super) fn weight(&self) -> usize {
        table(&self.terms) + self.terms.keys().map(|term| piece(term.len())).sum::<usize>()
    }

    /// How many terms are known; they are numbered from 0.
    pub fn len(&self) -> usize {
        self.terms.len()
    }

    /// Whether no term is known.
    pub fn is_empty(&self) -> bool {
        self.terms.is_empty()
    }

    /// The number of a term that is known. O(1).
    pub fn get(&self, term: &str) -> Option<TermId> {
        self.terms.get(term).copied()
    }
}
