//! What pages and paragraphs are about: their words, weighed by how telling they are.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use crate::phrases::{PhraseBook, TermId, Token, bag_of};
use crate::site::PageId;

/// Terms in order with their weights, of length 1.
#[derive(Debug, Clone, Default)]
pub struct Theme {
    weights: Vec<(TermId, f32)>,
}

impl Theme {
    /// TF-IDF with logarithmic term frequency of a whole page; its title counts three times. O(terms).
    pub fn of(book: &PhraseBook, page: PageId) -> Option<Self> {
        let bag = book.prose(page)?.bag();
        let own = book.names(page).iter().filter(|name| name.source.is_own());
        let mut titles: Vec<TermId> = own.flat_map(|name| name.terms.iter().copied()).collect();
        titles.sort_unstable();
        let mut titles = titles.chunk_by(|a, b| a == b).map(|same| (same[0], 3 * same.len())).peekable();
        let mut counts = Vec::with_capacity(bag.len() + 8);
        for (term, count) in bag {
            while let Some(only) = titles.next_if(|(title, _)| title < term) {
                counts.push(only);
            }
            let more = titles.next_if(|(title, _)| title == term).map_or(0, |(_, more)| more);
            counts.push((*term, *count as usize + more));
        }
        counts.extend(titles);
        Some(Self::weigh(book, counts.into_iter()))
    }

    /// Of a stretch of tokens. O(tokens × log tokens).
    pub fn of_tokens(book: &PhraseBook, tokens: &[Token]) -> Self {
        Self::weigh(book, bag_of(tokens).iter().map(|(term, count)| (*term, *count as usize)))
    }

    /// `counts` are in the order of the terms.
    fn weigh(book: &PhraseBook, counts: impl Iterator<Item = (TermId, usize)>) -> Self {
        let pages = ln(book.prose_count().max(1));
        // A term on every page weighs nothing.
        let idf = |term| (pages - ln(book.document_frequency(term).max(1))).max(0.0);
        let weighed = counts.map(|(term, count)| (term, (1.0 + ln(count)) * idf(term)));
        let mut weights: Vec<_> = weighed.filter(|(_, weight)| *weight > 0.0).collect();
        let length = weights.iter().map(|(_, weight)| weight * weight).sum::<f32>().sqrt().max(1e-9);
        weights.iter_mut().for_each(|(_, weight)| *weight /= length);
        Self { weights }
    }

    /// Cosine of the angle between two themes, 0 to 1. O(terms of both), or O(few × log many).
    pub fn likeness(&self, other: &Self) -> f32 {
        let (few, many) = if self.weights.len() < other.weights.len() { (self, other) } else { (other, self) };
        if few.weights.len() * 8 < many.weights.len() {
            let of = |term: TermId| many.weights.binary_search_by_key(&term, |(known, _)| *known).ok();
            let shared = few.weights.iter().filter_map(|(term, weight)| Some(weight * many.weights[of(*term)?].1));
            return shared.sum();
        }
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

    /// The terms, those first that weigh most. O(n log n).
    pub fn telling(&self) -> impl Iterator<Item = TermId> {
        let mut terms = self.weights.clone();
        terms.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
        terms.into_iter().map(|(term, _)| term)
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

/// Logarithms of counts, most of which are small.
fn ln(count: usize) -> f32 {
    static SMALL: LazyLock<Vec<f32>> = LazyLock::new(|| (0..4096u16).map(|count| f32::from(count).ln()).collect());
    SMALL.get(count).copied().unwrap_or_else(|| (count as f32).ln())
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
