//! The text layer: what a reader sees, where every character knows its source bytes.

use super::run::{Run, RunKind};
use super::source_places::PackedPlaces;
use super::span::{SourceSpan, TextSpan};

/// What the reader knows of the markup around a run.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Around {
    pub node: u32,
    pub mended: bool,
}

/// Visible text in source order. Blocks are separated by a line feed that has no source.
#[derive(Debug, Clone, Default)]
pub struct TextLayer {
    text: String,
    runs: Vec<Run>,
}

impl TextLayer {
    /// Room for so many bytes of text and so many runs.
    pub(crate) fn with_capacity(text: usize, runs: usize) -> Self {
        Self { text: String::with_capacity(text), runs: Vec::with_capacity(runs) }
    }

    pub(super) fn places(&self) -> PackedPlaces {
        PackedPlaces::of(&self.runs)
    }

    /// The whole text of the page; offsets of [`TextSpan`] count its bytes.
    pub fn as_str(&self) -> &str {
        &self.text
    }

    /// The text of a span; empty when the span does not lie on character boundaries of this text.
    pub fn slice(&self, span: TextSpan) -> &str {
        self.text.get(span.range()).unwrap_or_default()
    }

    /// The stretches of the text that come from one stretch of the source each, in text order.
    pub fn runs(&self) -> &[Run] {
        &self.runs
    }

    /// The runs that share a byte with `span`, in order. O(log runs).
    pub fn runs_in(&self, span: TextSpan) -> &[Run] {
        let first = self.runs.partition_point(|run| run.text.end <= span.start);
        let last = self.runs.partition_point(|run| run.text.start < span.end);
        self.runs.get(first..last).unwrap_or_default()
    }

    /// The source byte at which the character at text offset `at` begins.
    ///
    /// `None` inside separators and opaque text. O(log runs).
    pub fn source_start(&self, at: usize) -> Option<usize> {
        self.run_at(at)?.source_start(at)
    }

    /// The source byte just after the character that ends at text offset `at`.
    ///
    /// `None` after separators and opaque text. O(log runs).
    pub fn source_end(&self, at: usize) -> Option<usize> {
        self.run_at(at.checked_sub(1)?)?.source_end(at)
    }

    fn run_at(&self, at: usize) -> Option<&Run> {
        let after = self.runs.partition_point(|run| run.text.end <= at);
        self.runs.get(after).filter(|run| run.text.start <= at)
    }

    /// The stretch of text around `span` that stands in the source as it is, without a tag in it. O(log runs).
    pub fn plain_around(&self, span: TextSpan) -> Option<TextSpan> {
        let run = self.run_at(span.start).filter(|run| run.kind == RunKind::Verbatim)?;
        run.text.contains(span).then_some(run.text)
    }

    pub(crate) fn len(&self) -> usize {
        self.text.len()
    }

    /// Takes back what was pushed last, from a place where a run begins, and gives it.
    pub(crate) fn cut_from(&mut self, start: usize) -> String {
        self.runs.retain(|run| run.text.start < start);
        self.text.split_off(start)
    }

    pub(crate) fn push_separator(&mut self) {
        if !self.text.is_empty() && !self.text.ends_with('\n') {
            self.text.push('\n');
        }
    }

    pub(crate) fn push(&mut self, text: &str, source: SourceSpan, kind: RunKind, around: Around) {
        if text.is_empty() {
            return;
        }
        let start = self.text.len();
        self.text.push_str(text);
        let span = TextSpan::new(start, self.text.len());
        self.runs.push(Run { text: span, source, kind, node: around.node, mended: around.mended });
    }
}

/// A heading as [`fold_space`] has it, without the mark at its end that leads to the heading itself.
pub fn fold_heading(text: &str) -> String {
    let mut text = fold_space(text);
    let said = text.trim_end_matches(['¶', '🔗']).trim_end();
    let said = said.strip_suffix(" #").unwrap_or(said).len();
    text.truncate(said);
    text
}

/// Runs of white space as one space, none at the ends: how a browser shows running text.
pub fn fold_space(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}
