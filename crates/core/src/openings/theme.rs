//! What pages and paragraphs are about: their words, weighed by how telling they are.

use rustc_hash::FxHashMap;

use crate::phrases::{PhraseBook, TermId, Token};
use crate::site::PageId;

/// Terms in order with their weights, of length 1.
#[derive(Debug, Clone, Default)]
pub struct Theme {
    weights: Vec<(TermId, f32)>,
}

impl Theme {
    /// TF-IDF with logarithmic term frequency of a whole page; its title counts three times. O(tokens).
    pub fn of(book: &PhraseBook, page: PageId) -> Option<Self> {
        let mut counts = book.prose(page)?.frequencies();
        for name in book.names(page).iter().filter(|name| name.source.is_own()) {
            name.terms.iter().for_each(|term| *counts.entry(*term).or_default() += 3);
        }
        Some(Self::weigh(book, counts))
    }

    /// Of a stretch of tokens. O(tokens).
    pub fn of_tokens(book: &PhraseBook, tokens: &[Token]) -> Self {
        let mut counts: FxHashMap<TermId, u32> = FxHashMap::default();
        tokens.iter().for_each(|token| *counts.entry(token.term).or_default() += 1);
        Self::weigh(book, counts)
    }

    fn weigh(book: &PhraseBook, counts: FxHashMap<TermId, u32>) -> Self {
        let pages = book.prose_count() as f32;
        // A term on every page weighs nothing.
        let idf = |term| (pages / book.document_frequency(term).max(1) as f32).ln().max(0.0);
        let mut weights: Vec<_> =
            counts.into_iter().map(|(term, count)| (term, (1.0 + (count as f32).ln()) * idf(term))).collect();
        weights.retain(|(_, weight)| *weight > 0.0);
        // In order, so that every process adds up alike.
        weights.sort_unstable_by_key(|(term, _)| *term);
        let length = weights.iter().map(|(_, weight)| weight * weight).sum::<f32>().sqrt().max(1e-9);
        weights.iter_mut().for_each(|(_, weight)| *weight /= length);
        Self { weights }
    }

    /// Cosine of the angle between two themes, 0 to 1. O(terms of both).
    pub fn likeness(&self, other: &Self) -> f32 {
        let (mut one, mut two) = (self.weights.iter().peekable(), other.weights.iter().peekable());
        let mut sum = 0.0;
        while let (Some((left, a)), Some((right, b))) = (one.peek(), two.peek()) {
            match left.cmp(right) {
                std::cmp::Ordering::Less => drop(one.next()),
                std::cmp::Ordering::Greater => drop(two.next()),
                std::cmp::Ordering::Equal => {
                    sum += a * b;
                    one.next();
                    two.next();
                }
            }
        }
        sum
    }

    /// The terms that two themes share, those first that weigh most in both.
    pub fn shared(&self, other: &Self) -> Vec<TermId> {
        let weights: FxHashMap<TermId, f32> = other.weights.iter().copied().collect();
        let mut shared: Vec<_> =
            self.weights.iter().filter_map(|(term, a)| Some((a * weights.get(term)?, *term))).collect();
        shared.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        shared.into_iter().map(|(_, term)| term).collect()
    }
}

/// Themes of pages, each made once.
pub struct Themes<'b> {
    book: &'b PhraseBook,
    known: FxHashMap<PageId, Option<Theme>>,
}

impl<'b> Themes<'b> {
    pub fn new(book: &'b PhraseBook) -> Self {
        Self { book, known: FxHashMap::default() }
    }

    /// `None` for a page without prose.
    pub fn of(&mut self, page: PageId) -> Option<&Theme> {
        self.known.entry(page).or_insert_with(|| Theme::of(self.book, page)).as_ref()
    }
}
