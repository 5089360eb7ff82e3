//! The words of a page as terms, each with its place and whether it may carry a link.

use std::collections::HashMap;

use super::lexicon::{Lexicon, TermId};
use crate::document::{BlockKind, Document, Region, TextSpan};
use crate::language::{Language, Stemmer, words};

/// A word of a page's prose.
#[derive(Debug, Clone, Copy)]
pub struct Token {
    pub term: TermId,
    start: u32,
    len: u16,
    /// Whether it may follow the token before it in one linked phrase.
    pub joined: bool,
    pub linkable: bool,
}

impl Token {
    /// Place in [`Prose::text`].
    pub fn span(self) -> TextSpan {
        let start = self.start as usize;
        TextSpan::new(start, start + usize::from(self.len))
    }
}

#[derive(Debug, Clone, Copy)]
struct Stretch {
    text: TextSpan,
    kind: BlockKind,
}

/// The text of a page with its terms. About 16 bytes a word beside the text.
#[derive(Debug, Clone)]
pub struct Prose {
    text: String,
    tokens: Vec<Token>,
    blocks: Vec<Stretch>,
}

impl Prose {
    /// Reads the content of a document; furniture is left out. O(n).
    pub fn read(document: &Document, language: Language, lexicon: &mut Lexicon) -> Self {
        let stemmer = Stemmer::new(language);
        let mut known: HashMap<String, TermId> = HashMap::new();
        let mut tokens: Vec<Token> = Vec::new();
        let mut blocks = Vec::new();
        for block in document.blocks().iter().filter(|block| block.region == Region::Content) {
            blocks.push(Stretch { text: block.text, kind: block.kind });
            let mut before: Option<TextSpan> = None;
            for word in words(document.text().slice(block.text)) {
                let at = TextSpan::new(block.text.start + word.span.start, block.text.start + word.span.end);
                let term = match known.get(word.text) {
                    Some(term) => *term,
                    None => {
                        let term = lexicon.intern(&stemmer.stem(word.text));
                        known.insert(word.text.to_owned(), term);
                        term
                    }
                };
                let linkable = block.kind.is_prose() && document.may_link(at).is_ok();
                let pair = before.filter(|_| word.joined && linkable).map(|before| TextSpan::new(before.start, at.end));
                let joined = pair.is_some_and(|pair| document.may_link(pair).is_ok());
                let (Ok(start), Ok(len)) = (u32::try_from(at.start), u16::try_from(at.len())) else { break };
                tokens.push(Token { term, start, len, joined, linkable });
                before = Some(at);
            }
        }
        Self { text: document.text().as_str().to_owned(), tokens, blocks }
    }

    pub fn text(&self) -> &str {
        &self.text
    }

    pub fn tokens(&self) -> &[Token] {
        &self.tokens
    }

    /// The block in which a span stands, and its kind. O(log blocks).
    pub fn block_around(&self, span: TextSpan) -> Option<(TextSpan, BlockKind)> {
        let index = self.blocks.partition_point(|block| block.text.end <= span.start);
        self.blocks.get(index).filter(|block| block.text.contains(span)).map(|block| (block.text, block.kind))
    }

    /// How often each term stands here. O(tokens).
    pub fn frequencies(&self) -> HashMap<TermId, u32> {
        let mut counts = HashMap::new();
        self.tokens.iter().for_each(|token| *counts.entry(token.term).or_default() += 1);
        counts
    }
}
