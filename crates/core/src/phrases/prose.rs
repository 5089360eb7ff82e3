//! The words of a page as terms, each with its place and whether it may carry a link.

use std::collections::BTreeSet;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::lexicon::{Lexicon, TermId};
use super::repeated::{Repeated, repeated};
use super::token::{Token, TokenMarks};
use crate::document::{BlockKind, Document, Region, TextSpan};
use crate::language::{Language, Passages, Stemmer, Stems, Word, sentence_within, words};
use crate::limits::Carried;
use crate::weight::{list, piece};

/// A block of prose.
#[derive(Debug, Clone, Copy)]
pub struct Stretch {
    start: u32,
    end_of_text: u32,
    pub kind: BlockKind,
    /// Its tokens, as a range among those of the page.
    pub first: u32,
    pub end: u32,
    /// How many of them carry links.
    pub linked: u32,
}

impl Stretch {
    /// Place in [`Prose::text`].
    pub fn text(&self) -> TextSpan {
        TextSpan::new(self.start as usize, self.end_of_text as usize)
    }
}

/// The text of a page with its terms. About 11 bytes a word beside the text.
#[derive(Debug, Clone)]
pub struct Prose {
    /// A page whose links alone are others has the same, and the same bag.
    text: Arc<str>,
    tokens: Vec<Token>,
    blocks: Vec<Stretch>,
    bag: Arc<[(TermId, u32)]>,
    /// All words, those that are too long to be tokens too.
    words: u32,
    /// Starts and ends of the texts of its links, as [`Carried`] has them.
    links: Box<[(u32, u32)]>,
    /// What its pictures say to whoever does not see them, with their numbers on the page.
    alts: Box<[(u32, Box<str>)]>,
}

/// Prose whose words have no numbers on the site yet: as much as can be read of many pages side by side.
#[derive(Debug, Clone)]
pub struct ReadProse {
    /// Its terms are places among the stems.
    prose: Prose,
    stems: Vec<String>,
    repeated: Vec<Repeated>,
    /// Those of its passages.
    languages: BTreeSet<Language>,
}

impl Prose {
    /// Bytes on the heap. O(1).
    pub(super) fn weight(&self) -> usize {
        // What is shared has two counters before it.
        piece(self.text.len() + 16)
            + list::<Token>(self.tokens.capacity())
            + list::<Stretch>(self.blocks.capacity())
            + piece(self.bag.len() * size_of::<(TermId, u32)>() + 16)
            + piece(self.links.len() * size_of::<(u32, u32)>())
            + piece(self.alts.len() * size_of::<(u32, Box<str>)>())
            + self.alts.iter().map(|(_, alt)| piece(alt.len())).sum::<usize>()
    }
}

impl ReadProse {
    /// Reads the content of a document; boilerplate is left out. O(n).
    pub fn of(document: &Document, language: Language) -> Self {
        Self::with(&Stems::default(), document, language)
    }

    /// The same, one of many that share their words. A passage in another language is stemmed in that.
    pub fn with(known_stems: &Stems, document: &Document, language: Language) -> Self {
        let mut passages = Passages::default();
        let mut stemmers: FxHashMap<Language, Stemmer> = FxHashMap::default();
        let mut stems: Vec<String> = Vec::new();
        let mut known: FxHashMap<(Language, &str), TermId> = FxHashMap::default();
        let mut tokens: Vec<Token> = Vec::new();
        let mut blocks = Vec::new();
        let mut found: Vec<Word<'_>> = Vec::new();
        let inlines = document.inlines();
        let mut next_inline = 0;
        let mut links = document.links().iter().map(|link| link.text).filter(|text| !text.is_empty()).peekable();
        for block in document.blocks().iter().filter(|block| block.region == Region::Content) {
            let first = tokens.len();
            let text = document.text().slice(block.text);
            found.clear();
            found.extend(words(text));
            let language = match document.language_of(block) {
                Some(tag) => Language::from_tag(tag),
                None if block.kind.is_prose() => passages.language_of(found.iter().map(|word| word.text), language),
                None => language,
            };
            let stemmer = stemmers.entry(language).or_insert_with(|| Stemmer::new(language));
            // The token before, with the code that it stands in.
            let mut before: Option<TextSpan> = None;
            let mut sentence_starts = true;
            // What holds for one word of a plain stretch of text holds for all others, and for several of them.
            let mut plain: Option<(TextSpan, bool)> = None;
            let mut last_end = 0;
            for word in &found {
                let at = TextSpan::new(block.text.start + word.span.start, block.text.start + word.span.end);
                while inlines.get(next_inline).is_some_and(|inline| inline.text.end <= at.start) {
                    next_inline += 1;
                }
                while links.peek().is_some_and(|link| link.end <= at.start) {
                    links.next();
                }
                let inline = inlines.get(next_inline).filter(|inline| inline.text.overlaps(at));
                let code = inline.and_then(|inline| inline.code);
                // Of “`mod_cgi`’s” the code is the word.
                let end = code.map_or(at.end, |code| code.end.min(at.end));
                let at = TextSpan::new(at.start, end);
                let shown = word.text.get(..at.len()).unwrap_or(word.text);
                let term = *known.entry((language, shown)).or_insert_with(|| {
                    stems.push(known_stems.stem(stemmer, shown));
                    TermId(number(stems.len() - 1))
                });
                let mut marks = TokenMarks::default();
                marks.set(TokenMarks::LINKED, links.peek().is_some_and(|link| link.overlaps(at)));
                marks.set(TokenMarks::EMPHASISED, inline.is_some_and(|inline| inline.emphasised));
                sentence_starts |= text[last_end..word.span.start].contains(['.', '!', '?', ':']);
                let is_first = std::mem::take(&mut sentence_starts);
                let is_capital = word.text.starts_with(char::is_uppercase) && !is_first;
                marks.set(TokenMarks::CAPITAL, is_capital);
                let mut span = at;
                if let Some(code) = code {
                    marks.set(TokenMarks::CODE, true);
                    let is_mere = |start: usize, end: usize| {
                        !document.text().slice(TextSpan::new(start, end)).contains(char::is_alphanumeric)
                    };
                    if code.start <= at.start && is_mere(code.start, at.start) {
                        marks.set(TokenMarks::CODE_STARTS, true);
                        span = TextSpan::new(code.start, span.end);
                    }
                    if code.end >= at.end && is_mere(at.end, code.end) {
                        marks.set(TokenMarks::CODE_ENDS, true);
                        span = TextSpan::new(span.start, code.end);
                    }
                }
                // What a link would have to go around.
                let unit = code.map_or(at, |code| TextSpan::new(code.start.min(at.start), code.end.max(at.end)));
                let known = |plain: Option<(TextSpan, bool)>, words: TextSpan| {
                    plain.filter(|(stretch, _)| stretch.contains(words)).map(|(_, may)| may)
                };
                let linkable = block.kind.is_prose()
                    && known(plain, unit).unwrap_or_else(|| {
                        let may = document.may_link(unit).is_ok();
                        let around = document.text().plain_around(unit).filter(|_| code.is_none());
                        plain = around.map(|stretch| (stretch, may));
                        may
                    });
                let pair =
                    before.filter(|_| word.joined && linkable).map(|before| TextSpan::new(before.start, unit.end));
                let may = |pair| known(plain, pair).unwrap_or_else(|| document.may_link(pair).is_ok());
                marks.set(TokenMarks::LINKABLE, linkable);
                marks.set(TokenMarks::JOINED, pair.is_some_and(may));
                last_end = word.span.end;
                let token = Token::of(term, span, marks);
                // Nobody links around a word that is none either.
                before = token.map(|_| unit);
                tokens.extend(token);
            }
            let linked = tokens[first..].iter().filter(|token| token.has(TokenMarks::LINKED)).count();
            blocks.push(Stretch {
                start: number(block.text.start),
                end_of_text: number(block.text.end),
                kind: block.kind,
                first: number(first),
                end: number(tokens.len()),
                linked: number(linked),
            });
        }
        let text = document.text().as_str().into();
        let carried = Carried::of(document);
        let links = carried.links.iter().map(|link| (number(link.start), number(link.end))).collect();
        let alts = document.pictures().iter().enumerate();
        let alts = alts.filter_map(|(at, picture)| Some((number(at), picture.alt.as_deref()?.into()))).collect();
        let words = number(carried.words);
        let repeated = repeated(&tokens);
        let languages = stemmers.into_keys().collect();
        Self {
            prose: Prose { text, tokens, blocks, bag: Arc::default(), words, links, alts },
            stems,
            repeated,
            languages,
        }
    }

    /// The languages in which it has passages, in order.
    pub const fn languages(&self) -> &BTreeSet<Language> {
        &self.languages
    }

    /// Its prose, whose words have no numbers on the site yet, and what it repeats.
    pub(super) fn repeats(&self) -> (&Prose, &[Repeated]) {
        (&self.prose, &self.repeated)
    }

    /// With the numbers that the words have on the site, or get now. O(tokens × log tokens).
    pub fn number(self, lexicon: &mut Lexicon) -> Prose {
        let Self { mut prose, stems, .. } = self;
        let numbers: Vec<TermId> = stems.iter().map(|stem| lexicon.intern(stem)).collect();
        for token in &mut prose.tokens {
            token.term = numbers[token.term().0 as usize];
        }
        prose.bag = bag_of(&prose.tokens).into();
        // They stay for as long as the site is in memory.
        prose.tokens.shrink_to_fit();
        prose.blocks.shrink_to_fit();
        prose
    }
}

impl Prose {
    /// The text that the tokens point into.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Takes from another what is the same in both, the text letter by letter and the bag: one of each is enough. O(n).
    pub(super) fn share_with(&mut self, other: &Self) {
        if self.text == other.text {
            self.text = Arc::clone(&other.text);
        }
        if self.bag == other.bag {
            self.bag = Arc::clone(&other.bag);
        }
    }

    /// Its words, in text order.
    pub fn tokens(&self) -> &[Token] {
        &self.tokens
    }

    /// Where so many words stand in the text, from the `first` on up to the one at `end`; an empty span when they are none
    /// of its words.
    pub fn words(&self, first: usize, end: usize) -> TextSpan {
        match self.tokens.get(first).zip(end.checked_sub(1).and_then(|last| self.tokens.get(last))) {
            Some((first, last)) => TextSpan::new(first.span().start, last.span().end),
            None => TextSpan::new(0, 0),
        }
    }

    /// Its blocks as stretches of tokens, in text order.
    pub fn blocks(&self) -> &[Stretch] {
        &self.blocks
    }

    /// The block of a token. O(log blocks).
    pub fn block_of(&self, token: usize) -> Option<&Stretch> {
        let index = self.blocks.partition_point(|block| block.end as usize <= token);
        self.blocks.get(index)
    }

    /// The block in which a span stands, and its kind. O(log blocks).
    pub fn block_around(&self, span: TextSpan) -> Option<(TextSpan, BlockKind)> {
        let index = self.blocks.partition_point(|block| block.text().end <= span.start);
        self.blocks.get(index).map(|block| (block.text(), block.kind)).filter(|(text, _)| text.contains(span))
    }

    /// The sentence around words of one block; the words themselves where there is none. O(length of the block).
    pub fn sentence_around(&self, words: TextSpan) -> TextSpan {
        self.block_around(words).map_or(words, |(block, _)| sentence_within(&self.text, block, words))
    }

    /// Starts and ends of the texts of its links, in their order.
    pub fn links(&self) -> &[(u32, u32)] {
        &self.links
    }

    /// What its pictures say to whoever does not see them, with their numbers on the page.
    pub fn alts(&self) -> &[(u32, Box<str>)] {
        &self.alts
    }

    /// What its page carries. O(links).
    pub fn carried(&self) -> Carried {
        let span = |(start, end): &(u32, u32)| TextSpan::new(*start as usize, *end as usize);
        Carried { words: self.words as usize, links: self.links.iter().map(span).collect() }
    }

    /// How often each term stands here, by term. O(1).
    pub fn bag(&self) -> &[(TermId, u32)] {
        &self.bag
    }

    /// O(log terms).
    pub fn has_term(&self, term: TermId) -> bool {
        self.bag.binary_search_by_key(&term, |(known, _)| *known).is_ok()
    }
}

/// How often each term stands among some tokens, by term. O(n log n).
pub fn bag_of(tokens: &[Token]) -> Box<[(TermId, u32)]> {
    let mut terms: Vec<_> = tokens.iter().map(|token| token.term()).collect();
    terms.sort_unstable();
    let counted = terms.chunk_by(|a, b| a == b).map(|same| (same[0], number(same.len())));
    counted.collect()
}

fn number(count: usize) -> u32 {
    u32::try_from(count).unwrap_or(u32::MAX)
}
