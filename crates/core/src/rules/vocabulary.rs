//! The words of rules as symbols, and their phrases as ways from symbol to symbol. It knows the words of rules alone, however
//! many the site has.

use rustc_hash::FxHashMap;

use crate::phrases::{TermId, Trie};

/// More words between two of a phrase hold nothing together.
const WIDEST_GAP: usize = 10;

/// A phrase of a rule, by the places of both.
pub(super) type PhraseAt = (usize, usize);

/// The phrases of many rules whose words are made alike in one way: folded, or stemmed after a language. Memory: O(words of all
/// phrases).
#[derive(Debug, Default)]
pub(super) struct Vocabulary {
    symbols: FxHashMap<Box<str>, TermId>,
    trie: Trie,
    /// Whose phrases they are, by their numbers in the trie.
    named: Vec<Vec<PhraseAt>>,
    /// Phrases between whose words others may stand, by their first words.
    gapped: FxHashMap<TermId, Vec<Gapped>>,
}

/// A phrase between whose words others may stand.
#[derive(Debug)]
pub(super) struct Gapped {
    pub phrase: PhraseAt,
    pub rest: Box<[TermId]>,
    pub gap: usize,
}

impl Vocabulary {
    /// A word that no phrase has.
    pub const UNKNOWN: TermId = TermId(u32::MAX);

    /// Adds a phrase by its words, made alike. O(words).
    pub fn add(&mut self, phrase: PhraseAt, words: impl Iterator<Item = String>, gap: usize) {
        let terms: Vec<TermId> = words.map(|word| self.intern(word)).collect();
        match terms.split_first() {
            Some((first, rest)) if gap > 0 && !rest.is_empty() => {
                self.gapped.entry(*first).or_default().push(Gapped {
                    phrase,
                    rest: rest.into(),
                    gap: gap.min(WIDEST_GAP),
                });
            }
            Some(_) => {
                let (id, _) = self.trie.intern(&terms);
                let at = id.0 as usize;
                if at >= self.named.len() {
                    self.named.resize_with(at + 1, Vec::new);
                }
                self.named[at].push(phrase);
            }
            None => {}
        }
    }

    fn intern(&mut self, word: String) -> TermId {
        let fresh = TermId(u32::try_from(self.symbols.len()).unwrap_or(u32::MAX));
        *self.symbols.entry(word.into_boxed_str()).or_insert(fresh)
    }

    /// The symbol of a word that was made alike. O(length).
    pub fn symbol(&self, word: &str) -> TermId {
        self.symbols.get(word).copied().unwrap_or(Self::UNKNOWN)
    }

    /// Tells each phrase that stands at the beginning of a row of words, with how many of them it takes; but for those with gaps.
    /// `symbol` gives the word at a distance, as long as it belongs to what stands before it. O(words of the longest phrase).
    pub fn phrases_at(&self, symbol: impl Fn(usize) -> Option<TermId>, mut tell: impl FnMut(PhraseAt, usize)) {
        let mut at = symbol(0).and_then(|first| self.trie.step(Trie::START, first));
        let mut length = 1;
        while let Some(node) = at {
            if let Some(phrase) = self.trie.phrase(node) {
                self.named[phrase.0 as usize].iter().for_each(|phrase| tell(*phrase, length));
            }
            at = symbol(length).and_then(|next| self.trie.step(node, next));
            length += 1;
        }
    }

    /// The phrases with gaps that begin with a word.
    pub fn gapped_at(&self, first: TermId) -> &[Gapped] {
        self.gapped.get(&first).map_or(&[], Vec::as_slice)
    }
}

impl Gapped {
    /// How many words it takes at least from its first one on, if it goes on here. `is` tells whether the word at a distance is
    /// one of its words, which are counted from 1 on, by its symbol. O(words × gap).
    pub fn length(&self, is: impl Fn(usize, usize, TermId) -> bool) -> Option<usize> {
        // All places where each of its words can stand, so that one that comes too early does not hide one that fits.
        let mut ends = vec![0];
        for (number, term) in (1..).zip(&self.rest) {
            let mut next: Vec<usize> = Vec::new();
            for at in ends.into_iter().flat_map(|end| end + 1..=end + 1 + self.gap) {
                if !next.contains(&at) && is(at, number, *term) {
                    next.push(at);
                }
            }
            ends = next;
        }
        ends.into_iter().min().map(|last| last + 1)
    }
}
