//! From the changes of a page to what is put into it as it passes.

use super::edit::PassingEdit;
use super::passage::{Passage, Sighted};
use super::stretch::{Stretch, after, before};
use crate::document::{Document, Edit, Format, SourceSpan, Splice, TextSpan};
use crate::language::sentence_within;

/// Longer stretches are not looked for: so much of a page is held back at most.
const LONGEST: usize = 16 << 10;

/// A change of a page, and the words that it is about, if it is about words.
#[derive(Debug, Clone)]
pub struct PassingLink {
    pub edit: Edit,
    pub words: Option<TextSpan>,
}

impl PassingEdit {
    /// The changes of a page, each in its sentence, with the places of those that are made among `links`. Each of them was seen
    /// to come out as it would in the page itself; those that cannot, or do not go together with others, are left out.
    /// O(n + splices) for each round, of which there is one as long as nothing is left out.
    pub fn of(document: &Document, links: &[PassingLink]) -> Self {
        if document.format() != Format::Html {
            return Self::default();
        }
        let mut wanted: Vec<usize> = (0..links.len()).collect();
        while !wanted.is_empty() {
            let edits = wanted.iter().map(|link| links[*link].edit.clone());
            let Ok(whole) = Edit::compose(document.hash(), edits) else { return Self::default() };
            let passing = Self::built(stretches(document, links, &wanted, &whole), Vec::new());
            let passing = passing.placed(document.source());
            let made = passing.links();
            if made.len() < wanted.len() {
                wanted.retain(|link| made.contains(link));
                continue;
            }
            let passed = Passage::over(&passing, document.source().as_bytes());
            let is_same = whole.apply(document.source()).is_ok_and(|after| after.as_bytes() == passed);
            return if is_same { passing } else { Self::default() };
        }
        Self::default()
    }

    /// Each stretch with which of those that are alike it is; those that are not where they should be are left out.
    fn placed(self, source: &str) -> Self {
        let sighted = Passage::sighted(&self, source.as_bytes());
        let mut kept = Vec::new();
        for (at, stretch) in self.stretches.iter().enumerate() {
            let mut own = sighted.iter().filter(|sighted: &&Sighted| sighted.stretch == at);
            if let Some(nth) = own.position(|sighted| sighted.at == stretch.nth) {
                kept.push(Stretch { nth, ..stretch.clone() });
            }
        }
        Self::built(kept, self.at_end)
    }
}

/// What is looked for, for changes that go together; `nth` is where in the source it begins, for now.
fn stretches(document: &Document, links: &[PassingLink], wanted: &[usize], whole: &Edit) -> Vec<Stretch> {
    let mut spans: Vec<(SourceSpan, usize)> =
        wanted.iter().filter_map(|link| Some((span_of(document, &links[*link])?, *link))).collect();
    spans.sort_unstable();
    let mut joined: Vec<(SourceSpan, Vec<usize>)> = Vec::new();
    for (span, link) in spans {
        match joined.last_mut().filter(|(last, _)| span.start <= last.end) {
            Some((last, links)) => {
                last.end = last.end.max(span.end);
                links.push(link);
            }
            None => joined.push((span, vec![link])),
        }
    }
    let source = document.source();
    let splices = whole.splices();
    let stretch = |(span, links): (SourceSpan, Vec<usize>)| {
        let own = splices.iter().filter(|splice| span.start <= splice.at.start && splice.at.end <= span.end);
        let splice = |splice: &&Splice| {
            (splice.at.start - span.start..splice.at.end - span.start, splice.with.as_bytes().to_vec())
        };
        Some(Stretch {
            bytes: source.get(span.range())?.as_bytes().to_vec(),
            before: before(source, span.start).as_bytes().to_vec(),
            after: after(source, span.end).as_bytes().to_vec(),
            nth: span.start,
            splices: own.map(splice).collect(),
            links,
        })
    };
    joined.into_iter().filter_map(stretch).filter(|stretch| (1..=LONGEST).contains(&stretch.bytes.len())).collect()
}

/// The source of a change and of the sentence in which it is.
fn span_of(document: &Document, link: &PassingLink) -> Option<SourceSpan> {
    let text = document.text();
    let sentence = link.words.and_then(|words| {
        let block = document.blocks()[document.block_of(words)?.0 as usize].text;
        let sentence = sentence_within(text.as_str(), block, words);
        let (start, end) = (text.source_start(sentence.start)?, text.source_end(sentence.end)?);
        (start < end).then(|| SourceSpan::new(start, end))
    });
    let all = link.edit.stretches().into_iter().chain(sentence);
    all.reduce(|all, span| SourceSpan::new(all.start.min(span.start), all.end.max(span.end)))
}
