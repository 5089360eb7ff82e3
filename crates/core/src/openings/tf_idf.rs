//! What pages and paragraphs are about: their words, weighed by how telling they are.

use std::ops::Range as Span;

use rustc_hash::FxHashMap;

use crate::logarithms::ln;
use crate::phrases::{PhraseBook, TermId, Token, TokenMarks, bag_of};
use crate::site::PageId;

/// A word of a page's own names counts as if it stood in its text so many times more.
const IN_NAME: usize = 3;

/// Words that are more common in their language, on the Zipf scale, tell little of what a text is about.
const EVERYDAY: f32 = 4.8;

/// Where a vector has so many times fewer terms than a page, it is looked up in the page term by term.
const FAR_FEWER: usize = 12;

/// Terms in order with their weights, of length 1.
#[derive(Debug, Clone, Default)]
pub struct TfIdf {
    weights: Vec<(TermId, f32)>,
}

impl TfIdf {
    /// TF-IDF with logarithmic term frequency of a whole page, with the words of its names. O(terms).
    pub fn of(book: &PhraseBook, page: PageId) -> Option<Self> {
        let bag = book.prose(page)?.bag();
        let mut titles = words_of_names(book, page).into_iter().peekable();
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
        let weighed = counts.map(|(term, count)| (term, frequency(count) * book.rarity(term)));
        // A term on every page weighs nothing.
        let mut weights: Vec<_> = weighed.filter(|(_, weight)| *weight > 0.0).collect();
        let length = weights.iter().map(|(_, weight)| weight * weight).sum::<f32>().sqrt().max(1e-9);
        weights.iter_mut().for_each(|(_, weight)| *weight /= length);
        Self { weights }
    }

    /// Cosine of the angle between two vectors, 0 to 1. O(terms of both), or O(few × log many).
    pub fn similarity(&self, other: &Self) -> f32 {
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

    /// The `most` terms that weigh most, those first that weigh most. O(n + most × log most).
    pub fn telling(&self, most: usize) -> Vec<TermId> {
        let mut terms = self.weights.clone();
        let order = |a: &(TermId, f32), b: &(TermId, f32)| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0));
        if most < terms.len() {
            terms.select_nth_unstable_by(most, order);
            terms.truncate(most);
        }
        terms.sort_unstable_by(order);
        terms.into_iter().map(|(term, _)| term).collect()
    }

    /// The terms that two vectors share, those first that weigh most in both.
    pub fn shared(&self, other: &Self) -> Vec<TermId> {
        let weights: FxHashMap<TermId, f32> = other.weights.iter().copied().collect();
        let mut shared: Vec<_> =
            self.weights.iter().filter_map(|(term, a)| Some((a * weights.get(term)?, *term))).collect();
        shared.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        shared.into_iter().map(|(_, term)| term).collect()
    }

    /// The words that two vectors share as they stand among tokens of a page or, where they begin a sentence there, elsewhere
    /// on the page; as far as they say something: at most so many, those first that weigh most. What everybody says is told
    /// only where there is nothing else. O(tokens of the page × words).
    pub fn words_shared(
        &self,
        other: &Self,
        book: &PhraseBook,
        (page, tokens): (PageId, &[Token]),
        most: usize,
    ) -> Vec<String> {
        let Some(prose) = book.prose(page) else { return Vec::new() };
        let text = |token: &Token| prose.text().get(token.span().range());
        let begins_a_sentence = |token: &Token| {
            !token.has(TokenMarks::CAPITAL) && text(token).is_some_and(|word| word.starts_with(char::is_uppercase))
        };
        let shown = |term| {
            let here = tokens.iter().find(|token| token.term() == term)?;
            // The capital with which a sentence begins is not the word's own.
            let within = || prose.tokens().iter().find(|token| token.term() == term && !begins_a_sentence(token));
            let token = if begins_a_sentence(here) { within().unwrap_or(here) } else { here };
            text(token).filter(|word| book.is_telling(page, word))
        };
        let is_everyday = |word: &&str| book.commonness(page, word).is_some_and(|grade| grade > EVERYDAY);
        let words = self.shared(other).into_iter().filter_map(shown);
        let (everyday, special): (Vec<_>, Vec<_>) = words.partition(is_everyday);
        let told = if special.is_empty() { everyday } else { special };
        told.into_iter().take(most).map(str::to_owned).collect()
    }
}

/// A page as something that vectors are held against, without its own vector being written down.
#[derive(Debug, Default)]
pub struct Subject<'b> {
    bag: &'b [(TermId, u32)],
    /// How much more the words of the page's names count than they do in its text.
    names: Vec<(TermId, f32)>,
    length: f32,
}

impl<'b> Subject<'b> {
    /// `None` for a page without prose. O(terms).
    pub fn of(book: &'b PhraseBook, page: PageId) -> Option<Self> {
        let bag = book.prose(page)?.bag();
        let square = |frequency: f32, term: TermId| (frequency * book.rarity(term)).powi(2);
        let mut length: f32 = bag.iter().map(|(term, count)| square(frequency(*count as usize), *term)).sum();
        let names = words_of_names(book, page).into_iter().map(|(term, more)| {
            let at = bag.binary_search_by_key(&term, |(known, _)| *known);
            let count = at.map_or(0, |at| bag[at].1 as usize);
            let (without, with) = (frequency(count), frequency(count + more));
            length += square(with, term) - square(without, term);
            (term, with - without)
        });
        let names = names.collect();
        Some(Self { bag, names, length: length.sqrt().max(1e-9) })
    }
}

/// What pages have in common with a vector that was laid out: all of it that parts of the vector's own text can be like.
#[derive(Debug, Default)]
pub struct Commons {
    /// Terms that page and vector have, with how much they count on the page, page after page.
    terms: Vec<(TermId, f32)>,
}

/// What one page has in common with it.
#[derive(Debug, Clone, Copy, Default)]
pub struct Common {
    /// Among the terms: those of the page's text, and then those of its names.
    text: usize,
    names: usize,
    end: usize,
    length: f32,
}

/// A vector laid out by term, to be held against one page after another.
pub struct Layout<'b> {
    book: &'b PhraseBook,
    /// By the number of the term: its weight times its rarity.
    weights: Vec<f32>,
    terms: Vec<TermId>,
}

impl<'b> Layout<'b> {
    /// Nothing laid out. O(terms of the site), but for memory that is not touched.
    pub fn new(book: &'b PhraseBook) -> Self {
        Self { book, weights: vec![0.0; book.term_count()], terms: Vec::new() }
    }

    /// In place of what was laid out before. O(terms of both).
    pub fn lay(&mut self, vector: &TfIdf) {
        self.terms.drain(..).for_each(|term| self.weights[term.0 as usize] = 0.0);
        for (term, weight) in &vector.weights {
            self.weights[term.0 as usize] = weight * self.book.rarity(*term);
            self.terms.push(*term);
        }
    }

    /// Cosine of the angle between the vector and that of a page, as [`TfIdf::similarity`] has it. O(terms of the page), or
    /// O(terms of the vector × log terms of the page) where these are far fewer.
    pub fn similarity(&self, page: &Subject<'_>) -> f32 {
        let mut commons = Commons::default();
        let common = self.common(page, &mut commons);
        self.similarity_in(&commons, common)
    }

    /// What a page has in common with the vector, for when it is held against parts of the vector's text one after the other.
    /// Cost as [`Layout::similarity`].
    pub fn common(&self, page: &Subject<'_>, into: &mut Commons) -> Common {
        let terms = &mut into.terms;
        let text = terms.len();
        if self.terms.len() * FAR_FEWER < page.bag.len() {
            let at = |term: &TermId| page.bag.binary_search_by_key(term, |(known, _)| *known).ok();
            let found = self.terms.iter().filter_map(|term| Some((*term, page.bag[at(term)?].1)));
            terms.extend(found.map(|(term, count)| (term, frequency(count as usize))));
        } else {
            let found = page.bag.iter().filter(|(term, _)| self.weight(*term) != 0.0);
            terms.extend(found.map(|(term, count)| (*term, frequency(*count as usize))));
        }
        let names = terms.len();
        terms.extend(page.names.iter().filter(|(term, _)| self.weight(*term) != 0.0));
        Common { text, names, end: terms.len(), length: page.length }
    }

    /// As [`Layout::similarity`] of the page. The vector is that with which it was asked what the page has in common, or one of
    /// a part of its text. O(terms in common).
    pub fn similarity_in(&self, commons: &Commons, common: Common) -> f32 {
        let sum = |span: Span<usize>| self.sum(commons.terms.get(span).unwrap_or_default());
        (sum(common.text..common.names) + sum(common.names..common.end)) / common.length.max(1e-9)
    }

    /// A function by itself, not a part of a long one, where the sum so far would lie in memory and each step wait for it.
    #[inline(never)]
    fn sum(&self, terms: &[(TermId, f32)]) -> f32 {
        terms.iter().map(|(term, more)| self.weight(*term) * more).sum()
    }

    fn weight(&self, term: TermId) -> f32 {
        self.weights[term.0 as usize]
    }
}

/// How much a term counts that stands somewhere so often.
fn frequency(count: usize) -> f32 {
    if count == 0 { 0.0 } else { 1.0 + ln(count) }
}

/// The terms of a page's own names, in order, and how often each counts beside the text.
fn words_of_names(book: &PhraseBook, page: PageId) -> Vec<(TermId, usize)> {
    let own = book.names(page).iter().filter(|name| name.source.is_own());
    let mut terms: Vec<TermId> = own.flat_map(|name| book.terms_of(name.phrase).iter().copied()).collect();
    terms.sort_unstable();
    terms.chunk_by(|a, b| a == b).map(|same| (same[0], IN_NAME * same.len())).collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::document::Document;
    use crate::openings::{Corpus, CorpusPage};
    use crate::site::Address;

    const WORDS: [&str; 12] =
        ["moon", "star", "dust", "night", "glass", "mirror", "tube", "cold", "red", "torch", "sky", "map"];

    fn page() -> impl Strategy<Value = String> {
        let words = |most| prop::collection::vec(prop::sample::select(WORDS.to_vec()), 0..most);
        (words(4), words(60)).prop_map(|(title, text)| {
            format!("<html lang=en><title>{}</title><p>{}</p>", title.join(" "), text.join(" "))
        })
    }

    proptest! {
        #[test]
        fn a_theme_laid_out_is_as_like_a_page_as_theme_and_theme(pages in prop::collection::vec(page(), 2..6)) {
            let address = |at: usize| Address::parse(&format!("https://site.example/{at}")).unwrap();
            let pages: Vec<_> = pages
                .iter()
                .enumerate()
                .map(|(at, html)| CorpusPage { address: address(at), document: Document::from_html(html.as_str()) })
                .collect();
            let ids: Vec<_> = (1..).map(PageId).take(pages.len()).collect();
            let book = Corpus::of(address(0), pages).book;
            let mut layout = Layout::new(&book);
            for one in &ids {
                let tokens = book.prose(*one).unwrap().tokens();
                let first = TfIdf::of_tokens(&book, &tokens[..tokens.len().min(2)]);
                layout.lay(&TfIdf::of(&book, *one).unwrap());
                let subjects: Vec<_> = ids.iter().map(|other| Subject::of(&book, *other).unwrap()).collect();
                let mut commons = Commons::default();
                let in_common: Vec<_> = subjects.iter().map(|page| layout.common(page, &mut commons)).collect();
                layout.lay(&first);
                for (page, common) in subjects.iter().zip(&in_common) {
                    prop_assert_eq!(layout.similarity_in(&commons, *common), layout.similarity(page));
                }
                for vector in [TfIdf::of(&book, *one).unwrap(), first] {
                    layout.lay(&vector);
                    for other in &ids {
                        let written = vector.similarity(&TfIdf::of(&book, *other).unwrap());
                        let laid = layout.similarity(&Subject::of(&book, *other).unwrap());
                        prop_assert!((written - laid).abs() < 1e-4, "{} {}", written, laid);
                    }
                }
            }
        }
    }
}
