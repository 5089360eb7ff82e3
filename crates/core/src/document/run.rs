//! Stretches of text with the source that they came from.

use super::span::{SourceSpan, TextSpan};

/// How the bytes of a run stand to the bytes of its source.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RunKind {
    /// Byte for byte the same.
    Verbatim,
    /// One unit: a character reference such as `&amp;`, or a line end of two bytes.
    Unit,
    /// Text that could not be followed byte by byte (for example around NUL bytes). It is read but never edited.
    Opaque,
}

/// A stretch of text with the source that it came from.
#[derive(Debug, Clone, Copy)]
pub struct Run {
    pub text: TextSpan,
    pub source: SourceSpan,
    pub kind: RunKind,
    /// The node of the tree whose child this text is.
    pub(crate) node: u32,
    /// Whether a browser mends the markup around this text, so that its elements are not those of the source.
    pub(crate) mended: bool,
}

impl Run {
    /// The source byte at which the character at text offset `at` begins, which is in this run.
    pub(super) fn source_start(&self, at: usize) -> Option<usize> {
        match self.kind {
            RunKind::Verbatim => Some(self.source.start + (at - self.text.start)),
            RunKind::Unit => (at == self.text.start).then_some(self.source.start),
            RunKind::Opaque => None,
        }
    }

    /// The source byte just after the character that ends at text offset `at`, which is in this run.
    pub(super) fn source_end(&self, at: usize) -> Option<usize> {
        match self.kind {
            RunKind::Verbatim => Some(self.source.start + (at - self.text.start)),
            RunKind::Unit => (at == self.text.end).then_some(self.source.end),
            RunKind::Opaque => None,
        }
    }
}
