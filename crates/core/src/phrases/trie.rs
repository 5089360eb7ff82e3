//! Phrases as numbers, found in running text by walking from term to term.

use rustc_hash::FxHashMap;

use super::lexicon::TermId;
use crate::weight::{list, table};

/// A row of terms that names a page, or carries a link somewhere.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PhraseId(pub u32);

/// A place among the beginnings of phrases.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Node(u32);

/// Numbers for phrases, which are never forgotten. Memory: O(terms of all phrases).
#[derive(Debug)]
pub struct Trie {
    /// Where phrases begin, by the number of their first term: asked for every word of a site.
    first: Vec<Option<Node>>,
    /// Where they go on.
    next: FxHashMap<(Node, TermId), Node>,
    phrases: Vec<Option<PhraseId>>,
    count: u32,
}

impl Trie {
    /// Bytes on the heap. O(1).
    pub(super) fn weight(&self) -> usize {
        list::<Option<Node>>(self.first.capacity())
            + table(&self.next)
            + list::<Option<PhraseId>>(self.phrases.capacity())
    }
}

impl Default for Trie {
    fn default() -> Self {
        Self { first: Vec::new(), next: FxHashMap::default(), phrases: vec![None], count: 0 }
    }
}

impl Trie {
    /// Where each walk begins.
    pub const START: Node = Node(0);

    /// The number of a phrase, and whether it is new. O(terms).
    pub fn intern(&mut self, terms: &[TermId]) -> (PhraseId, bool) {
        let mut at = Self::START;
        for term in terms {
            let fresh = Node(u32::try_from(self.phrases.len()).unwrap_or(u32::MAX));
            at = match at {
                Self::START => {
                    let number = term.0 as usize;
                    if number >= self.first.len() {
                        self.first.resize(number + 1, None);
                    }
                    *self.first[number].get_or_insert(fresh)
                }
                _ => *self.next.entry((at, *term)).or_insert(fresh),
            };
            if at == fresh {
                self.phrases.push(None);
            }
        }
        let phrase = &mut self.phrases[at.0 as usize];
        let is_new = phrase.is_none();
        let id = *phrase.get_or_insert_with(|| {
            self.count += 1;
            PhraseId(self.count - 1)
        });
        (id, is_new)
    }

    /// The number of a phrase that is known. O(terms).
    pub fn find(&self, terms: &[TermId]) -> Option<PhraseId> {
        let end = terms.iter().try_fold(Self::START, |at, term| self.step(at, *term))?;
        self.phrase(end)
    }

    /// O(1).
    pub fn step(&self, from: Node, term: TermId) -> Option<Node> {
        match from {
            Self::START => self.first.get(term.0 as usize).copied().flatten(),
            _ => self.next.get(&(from, term)).copied(),
        }
    }

    /// The phrase that ends here.
    pub fn phrase(&self, at: Node) -> Option<PhraseId> {
        self.phrases[at.0 as usize]
    }
}
