//! Where the characters of a text stand in its source, without the text.

use integer_encoding::VarInt;

use super::run::{Run, RunKind};
use super::span::{SourceSpan, TextSpan};

/// The places of a text, packed for when those of a whole site are in memory: some four bytes a run.
#[derive(Debug, Clone, Default)]
pub struct PackedPlaces {
    /// For each run of which places are known, in text order, as numbers of one byte and more: how far its text is behind
    /// the one before; how long it is and, as the lowest bit, whether it is a unit; how far its source is behind; and how
    /// long that of a unit is.
    bytes: Box<[u8]>,
}

/// Where the characters of a text stand in its source.
#[derive(Debug, Clone, Default)]
pub struct SourcePlaces {
    /// In text order; without opaque ones, of which no place is known.
    runs: Vec<Run>,
}

impl PackedPlaces {
    /// `runs` are in text order. O(runs).
    pub(super) fn of(runs: &[Run]) -> Self {
        let mut bytes = Vec::new();
        let mut put = |number: usize| {
            let mut cut = [0; 10];
            let len = number.encode_var(&mut cut);
            bytes.extend_from_slice(&cut[..len]);
        };
        let (mut text, mut source) = (0, 0);
        for run in runs.iter().filter(|run| run.kind != RunKind::Opaque) {
            let is_unit = run.kind == RunKind::Unit;
            let behind = run.text.start.checked_sub(text).zip(run.source.start.checked_sub(source));
            // Text stands in the order of its source.
            let Some((after_text, after_source)) = behind else { continue };
            put(after_text);
            put(run.text.len() << 1 | usize::from(is_unit));
            put(after_source);
            if is_unit {
                put(run.source.len());
            }
            (text, source) = (run.text.end, run.source.end);
        }
        Self { bytes: bytes.into() }
    }

    /// O(runs).
    pub fn unpack(&self) -> SourcePlaces {
        let mut left = &*self.bytes;
        let mut next = || {
            let (number, len) = usize::decode_var(left)?;
            left = left.get(len..)?;
            Some(number)
        };
        let (mut text_end, mut source_end) = (0, 0);
        let mut run = || {
            let (start, long, from) = (text_end + next()?, next()?, source_end + next()?);
            let text = TextSpan::new(start, start + (long >> 1));
            let (kind, len) = if long & 1 == 0 { (RunKind::Verbatim, text.len()) } else { (RunKind::Unit, next()?) };
            let source = SourceSpan::new(from, from + len);
            (text_end, source_end) = (text.end, source.end);
            Some(Run { text, source, kind, node: 0, mended: false })
        };
        SourcePlaces { runs: std::iter::from_fn(&mut run).collect() }
    }
}

impl SourcePlaces {
    /// As [`TextLayer::source_start`](super::TextLayer::source_start).
    pub fn source_start(&self, at: usize) -> Option<usize> {
        self.run_at(at)?.source_start(at)
    }

    /// As [`TextLayer::source_end`](super::TextLayer::source_end).
    pub fn source_end(&self, at: usize) -> Option<usize> {
        self.run_at(at.checked_sub(1)?)?.source_end(at)
    }

    fn run_at(&self, at: usize) -> Option<&Run> {
        let after = self.runs.partition_point(|run| run.text.end <= at);
        self.runs.get(after).filter(|run| run.text.start <= at)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use crate::document::{Document, Format};

    proptest! {
        #[test]
        fn kept_places_are_those_of_the_document(
            pieces in prop::collection::vec(
                prop::sample::select(vec![
                    "moon ", "\u{e9}", "&amp;", "&ngE;", "&#0000065;", "\r\n", "\0", "<b>", "</b>", "<p>", "<pre>", "</pre>", "x",
                    "<table>", "<td>", "*", "`", "\n\n", "- ", "[a](b)", "> ", "\\*",
                ]),
                0..40,
            ),
            format in prop::sample::select(vec![Format::Html, Format::Markdown]),
        ) {
            let document = Document::read(pieces.concat(), format);
            let text = document.text().clone();
            let places = document.into_places().unpack();
            for at in 0..=text.as_str().len() + 1 {
                prop_assert_eq!(places.source_start(at), text.source_start(at), "start at {}", at);
                prop_assert_eq!(places.source_end(at), text.source_end(at), "end at {}", at);
            }
        }
    }
}
