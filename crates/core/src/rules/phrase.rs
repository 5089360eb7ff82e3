//! The phrases of a rule, and what counts as one of them in a text.

use regex::{Regex, RegexBuilder};
use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::language::words;

/// A longer phrase names nothing.
const MOST_WORDS: usize = 20;
const LONGEST: usize = 300;

/// What an expression may take when it is put together, in bytes.
const MOST_OF_EXPRESSION: usize = 1 << 20;

/// Words that are linked where they stand, or an expression for them.
#[derive(Debug, Clone)]
pub enum Phrase {
    /// As the editor writes them.
    Words(String),
    /// A regular expression; it is looked for in each block by itself, in linear time.
    Expression(Regex),
}

/// Why a phrase cannot be looked for.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum PhraseError {
    #[error("There are no words in “{0}”.")]
    NoWords(String),
    #[error("“{0} …” is too long: a phrase has {MOST_WORDS} words at most.")]
    TooLong(String),
    #[error("The expression cannot be read: {0}.")]
    Expression(String),
    #[error("The expression also stands where there are no words: let it have at least one.")]
    EmptyExpression,
}

/// What counts as a phrase in a text.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct Matching {
    /// Other forms of its words too, after the language of the page: of “red torch” also “red torches”.
    pub forms: bool,
    /// Only as it is written, in capitals and small letters.
    pub keeps_case: bool,
    /// Only with its accents.
    pub keeps_accents: bool,
    /// So many other words may stand between one of its words and the next; ten at most.
    pub gap: usize,
    /// Words next to which, before or behind, it means something else. Capitals and accents do not matter.
    pub not_beside: Vec<String>,
}

impl Matching {
    /// Whether words that are alike but for case and accents may not be meant.
    pub(super) const fn is_choosy(&self) -> bool {
        self.keeps_case || self.keeps_accents
    }
}

impl Phrase {
    /// # Errors
    /// [`PhraseError`].
    pub fn words(text: &str) -> Result<Self, PhraseError> {
        let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
        let shown = || text.chars().take(40).collect::<String>();
        match words(&text).count() {
            0 => Err(PhraseError::NoWords(shown())),
            count if count > MOST_WORDS || text.len() > LONGEST => Err(PhraseError::TooLong(shown())),
            _ => Ok(Self::Words(text)),
        }
    }

    /// # Errors
    /// [`PhraseError`].
    pub fn expression(pattern: &str) -> Result<Self, PhraseError> {
        let expression = RegexBuilder::new(pattern)
            .size_limit(MOST_OF_EXPRESSION)
            .dfa_size_limit(MOST_OF_EXPRESSION)
            .build()
            .map_err(|why| PhraseError::Expression(said(&why)))?;
        match expression.is_match("") {
            true => Err(PhraseError::EmptyExpression),
            false => Ok(Self::Expression(expression)),
        }
    }

    /// As the editor wrote it.
    pub fn as_str(&self) -> &str {
        match self {
            Self::Words(text) => text,
            Self::Expression(expression) => expression.as_str(),
        }
    }

    /// How long it is, in words and bytes: of two phrases in one place the longer one says more. Of an expression nobody knows.
    pub(super) fn length(&self) -> (usize, usize) {
        match self {
            Self::Words(text) => (words(text).count(), text.len()),
            Self::Expression(_) => (0, 0),
        }
    }
}

impl PartialEq for Phrase {
    fn eq(&self, other: &Self) -> bool {
        std::mem::discriminant(self) == std::mem::discriminant(other) && self.as_str() == other.as_str()
    }
}

/// What is wrong with an expression: the last line, without the drawing of the place above it.
fn said(why: &regex::Error) -> String {
    let why = why.to_string();
    let last = why.lines().last().unwrap_or_default().trim();
    last.strip_prefix("error: ").unwrap_or(last).trim_end_matches('.').to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_looked_for_is_said() {
        assert_eq!(Phrase::words("  red\n torch ").unwrap().as_str(), "red torch");
        assert_eq!(Phrase::words("…"), Err(PhraseError::NoWords("…".to_owned())));
        assert!(matches!(Phrase::words(&"moon ".repeat(21)), Err(PhraseError::TooLong(_))));
        assert!(Phrase::expression(r"M\d{1,3}").is_ok());
        assert!(matches!(Phrase::expression("(M"), Err(PhraseError::Expression(_))));
        let said = Phrase::expression("(M").unwrap_err().to_string();
        assert_eq!(said, "The expression cannot be read: unclosed group.");
        assert!(matches!(Phrase::expression(r"(\w{1000}){1000}"), Err(PhraseError::Expression(_))));
        assert_eq!(Phrase::expression("M?"), Err(PhraseError::EmptyExpression));
    }
}
