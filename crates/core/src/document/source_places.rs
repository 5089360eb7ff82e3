//! Where the characters of a text stand in its source, without the text.

use super::span::{SourceSpan, TextSpan};
use super::text::{Run, RunKind};

/// The places of a text, kept small for when those of a whole site are in memory: 16 bytes a run.
#[derive(Debug, Clone, Default)]
pub struct SourcePlaces {
    /// In text order; without opaque ones, of which no place is known.
    runs: Box<[SmallRun]>,
}

/// A run as four numbers.
#[derive(Debug, Clone, Copy)]
struct SmallRun {
    text_start: u32,
    text_end: u32,
    source_start: u32,
    /// Of a unit; 0 when the run stands in the source byte for byte.
    unit_end: u32,
}

impl SmallRun {
    /// `None` for opaque runs, and those beyond what can be numbered.
    fn of(run: &Run) -> Option<Self> {
        let unit_end = match run.kind {
            RunKind::Verbatim => 0,
            RunKind::Unit => run.source.end,
            RunKind::Opaque => return None,
        };
        Some(Self {
            text_start: u32::try_from(run.text.start).ok()?,
            text_end: u32::try_from(run.text.end).ok()?,
            source_start: u32::try_from(run.source.start).ok()?,
            unit_end: u32::try_from(unit_end).ok()?,
        })
    }

    fn whole(self) -> Run {
        let text = TextSpan::new(self.text_start as usize, self.text_end as usize);
        let start = self.source_start as usize;
        let (kind, end) = match self.unit_end {
            0 => (RunKind::Verbatim, start + text.len()),
            end => (RunKind::Unit, end as usize),
        };
        Run { text, source: SourceSpan::new(start, end), kind, node: 0, mended: false }
    }
}

impl SourcePlaces {
    /// `runs` are in text order. O(runs).
    pub(super) fn of(runs: &[Run]) -> Self {
        Self { runs: runs.iter().filter_map(SmallRun::of).collect() }
    }

    /// As [`TextLayer::source_start`](super::TextLayer::source_start).
    pub fn source_start(&self, at: usize) -> Option<usize> {
        self.run_at(at)?.source_start(at)
    }

    /// As [`TextLayer::source_end`](super::TextLayer::source_end).
    pub fn source_end(&self, at: usize) -> Option<usize> {
        self.run_at(at.checked_sub(1)?)?.source_end(at)
    }

    fn run_at(&self, at: usize) -> Option<Run> {
        let after = self.runs.partition_point(|run| run.text_end as usize <= at);
        self.runs.get(after).map(|run| run.whole()).filter(|run| run.text.start <= at)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use crate::document::Document;

    proptest! {
        #[test]
        fn kept_places_are_those_of_the_document(
            pieces in prop::collection::vec(
                prop::sample::select(vec![
                    "moon ", "\u{e9}", "&amp;", "&ngE;", "&#0000065;", "\r\n", "\0", "<b>", "</b>", "<p>", "<pre>", "</pre>", "x",
                ]),
                0..40,
            ),
        ) {
            let document = Document::from_html(pieces.concat());
            let text = document.text().clone();
            let places = document.into_places();
            for at in 0..=text.as_str().len() + 1 {
                prop_assert_eq!(places.source_start(at), text.source_start(at), "start at {}", at);
                prop_assert_eq!(places.source_end(at), text.source_end(at), "end at {}", at);
            }
        }
    }
}
