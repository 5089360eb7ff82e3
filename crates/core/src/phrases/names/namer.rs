//! What a name is, and what making names needs.

use std::sync::Arc;

use super::outline::NamedPlace;
use crate::language::{Language, Stems, StopWords, is_ideograph};
use crate::phrases::abbreviations::Abbreviations;
use crate::phrases::lexicon::Lexicon;
use crate::phrases::title_ends::TitleEnds;
use crate::phrases::trie::{PhraseId, Trie};

/// Longer names are sentences, and sentences are not repeated word by word elsewhere.
pub(in crate::phrases) const MOST_WORDS: usize = 8;

/// The same for characters that stand for words, or for parts of them.
pub(in crate::phrases) const MOST_IDEOGRAPHS: usize = 20;

/// Whether a row of words is short enough for a name or the words of a link. What stands between ideographs, such as kana,
/// is cut into characters, too.
pub(in crate::phrases) fn is_short_enough(found: &[&str]) -> bool {
    let ideographs = found.iter().filter(|word| is_ideograph(word)).count();
    let most = if ideographs > 0 { MOST_IDEOGRAPHS } else { MOST_WORDS };
    (1..=most).contains(&found.len())
}

/// Where a name comes from, the most telling first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum NameSource {
    /// A phrase by which whoever owns the page wants it to be found.
    Listed,
    Title,
    Heading,
    /// A part of the title or of the main heading, such as what stands before a dash.
    Part,
    /// A heading of a section.
    Section,
    /// A term that the page defines.
    Term,
    /// The last part of the address.
    Slug,
    /// A phrase of which the page speaks again and again.
    Telling,
    /// One of the words of a short title.
    Word,
}

impl NameSource {
    /// Whether it is about the page as a whole, so that many pages with the same name are ambiguous and not just alike.
    pub const fn is_own(self) -> bool {
        matches!(self, Self::Listed | Self::Title | Self::Heading)
    }

    /// Whether the page nowhere says that it is called so; it may be, where nothing else is.
    pub const fn is_guess(self) -> bool {
        matches!(self, Self::Telling | Self::Word)
    }
}

/// A phrase that names a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Name {
    pub phrase: PhraseId,
    /// As it is written where it comes from.
    pub text: Box<str>,
    pub source: NameSource,
    /// How many of the words say something by themselves, and not in capitals alone.
    pub telling: u8,
    /// The place on the page that has the name, when it is not the page as a whole.
    pub place: Option<Arc<NamedPlace>>,
}

/// A language in which the names of a page may be written.
#[derive(Clone, Copy)]
pub(in crate::phrases) struct Tongue<'n> {
    pub language: Language,
    pub stop_words: &'n StopWords,
}

/// What makes names of what is written about a page.
pub(in crate::phrases) struct Namer<'n> {
    pub site_name: Option<&'n str>,
    pub ends: &'n TitleEnds,
    /// The page's own first.
    pub tongues: &'n [Tongue<'n>],
    pub abbreviations: &'n Abbreviations,
    pub stems: &'n Stems,
    pub lexicon: &'n mut Lexicon,
    pub trie: &'n mut Trie,
}

impl Namer<'_> {
    /// Whether a word says something by itself in every language.
    pub fn tells(&self, word: &str) -> bool {
        self.tongues.iter().all(|tongue| tongue.stop_words.tells(word))
    }

    /// How many words say something by themselves, in the language in which the fewest do.
    pub fn telling(&self, words: &[&str]) -> usize {
        let telling = self.tongues.iter().map(|tongue| tongue.stop_words.telling(words.iter().copied()));
        telling.min().unwrap_or_default()
    }
}
