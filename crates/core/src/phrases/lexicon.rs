//! Terms as numbers.

use std::collections::HashMap;

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

    pub fn get(&self, term: &str) -> Option<TermId> {
        self.terms.get(term).copied()
    }
}
