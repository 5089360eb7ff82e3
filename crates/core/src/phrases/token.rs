//! A word of a page's prose, small enough that a site has millions of them.

use super::lexicon::TermId;
use crate::document::TextSpan;

/// What a token is besides its term.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct TokenMarks(u8);

impl TokenMarks {
    /// It may carry a link.
    pub const LINKABLE: Self = Self(1);
    /// It may follow the token before it in one linked phrase.
    pub const JOINED: Self = Self(2);
    /// It carries a link.
    pub const LINKED: Self = Self(4);
    /// It is the first, or the last, of a piece of code; one in the midst of code is neither.
    pub const CODE: Self = Self(8);
    /// A piece of code begins with it.
    pub const CODE_STARTS: Self = Self(16);
    /// A piece of code ends with it.
    pub const CODE_ENDS: Self = Self(32);
    /// It is set off from the text around it, as by `em` or `strong`.
    pub const EMPHASISED: Self = Self(64);
    /// It begins with a capital letter, and no sentence begins with it.
    pub const CAPITAL: Self = Self(128);

    /// Whether all marks of `mark` are among these.
    pub const fn has(self, mark: Self) -> bool {
        self.0 & mark.0 == mark.0
    }

    pub(super) fn set(&mut self, mark: Self, is: bool) {
        if is {
            self.0 |= mark.0;
        }
    }
}

/// A word of a page's prose, in nine bytes: a site has millions of them in memory.
#[derive(Debug, Clone, Copy)]
#[repr(Rust, packed)]
pub struct Token {
    pub(super) term: TermId,
    start: Start,
    len: u8,
    pub marks: TokenMarks,
}

impl Token {
    /// `None` where nobody could link it: a word that is very long, or that stands behind the first 16 MB of a text.
    pub(super) fn of(term: TermId, span: TextSpan, marks: TokenMarks) -> Option<Self> {
        Some(Self { term, start: Start::of(span.start)?, len: u8::try_from(span.len()).ok()?, marks })
    }

    /// The number of its stem.
    pub const fn term(self) -> TermId {
        self.term
    }

    /// Place in [`Prose::text`]. Of a piece of code the marks at its ends belong to the words.
    pub fn span(self) -> TextSpan {
        let start = self.start.get();
        TextSpan::new(start, start + usize::from(self.len))
    }

    /// Whether it has all of these marks.
    pub fn has(self, mark: TokenMarks) -> bool {
        self.marks.has(mark)
    }
}

/// Where a word begins in a text, within its first 16 MB.
#[derive(Debug, Clone, Copy)]
struct Start([u8; 3]);

impl Start {
    fn of(place: usize) -> Option<Self> {
        match u32::try_from(place).ok()?.to_le_bytes() {
            [a, b, c, 0] => Some(Self([a, b, c])),
            _ => None,
        }
    }

    fn get(self) -> usize {
        let [a, b, c] = self.0;
        u32::from_le_bytes([a, b, c, 0]) as usize
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_of_words_are_kept_up_to_16_mb_and_no_further() {
        for place in [0, 1, 255, 256, 65_536, (1 << 24) - 1] {
            assert_eq!(Start::of(place).map(Start::get), Some(place));
        }
        assert!(Start::of(1 << 24).is_none() && Start::of(usize::MAX).is_none());
        assert_eq!(size_of::<Token>(), 9);
    }
}
