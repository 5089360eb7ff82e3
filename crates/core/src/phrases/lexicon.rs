//! Terms as numbers.

use std::collections::HashMap;
use std::sync::LazyLock;

/// A folded, stemmed word of the site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct TermId(pub u32);

/// Numbers for terms. Terms are never forgotten.
#[derive(Debug, Default)]
pub struct Lexicon {
    terms: HashMap<Box<str>, TermId>,
}

impl Lexicon {
    pub fn intern(&mut self, term: &str) -> TermId {
        if let Some(id) = self.terms.get(term) {
            return *id;
        }
        let id = TermId(u32::try_from(self.terms.len()).unwrap_or(u32::MAX));
        self.terms.insert(term.into(), id);
        id
    }

    /// How many terms are known; they are numbered from 0.
    pub fn len(&self) -> usize {
        self.terms.len()
    }

    pub fn is_empty(&self) -> bool {
        self.terms.is_empty()
    }

    pub fn get(&self, term: &str) -> Option<TermId> {
        self.terms.get(term).copied()
    }
}

/// Logarithms of counts, most of which are small; 0 for none.
pub fn ln(count: usize) -> f32 {
    static SMALL: LazyLock<Vec<f32>> =
        LazyLock::new(|| (0..4096u16).map(|count| f32::from(count.max(1)).ln()).collect());
    SMALL.get(count).copied().unwrap_or_else(|| (count as f32).ln())
}
