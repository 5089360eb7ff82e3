//! What is to be put into a page as it passes.

use std::sync::Arc;

use super::finder::Finder;
use super::passage::{Passage, Sighted};
use super::stretch::{Stretch, after, before};
use crate::document::encoding::PageEncoding;
use crate::document::{ContentHash, Document, Edit, Format, SourceSpan, TextSpan};
use crate::language::sentence_within;

/// Longer stretches are not looked for: so much of a page is held back at most.
const LONGEST: usize = 16 << 10;

/// A change of a page, and the words that it is about, if it is about words.
#[derive(Debug, Clone)]
pub struct PassingLink {
    pub edit: Edit,
    pub words: Option<TextSpan>,
}

/// What is to be put into a page as it passes: sentences byte by byte, and what comes into them.
#[derive(Debug, Clone, Default)]
pub struct PassingEdit {
    pub(super) stretches: Vec<Stretch>,
    /// The stretches of each row of bytes that is looked for, the longest first.
    pub(super) of_bytes: Vec<Vec<usize>>,
    /// What comes before the end of the page's body.
    pub(super) at_end: Vec<u8>,
    pub(super) finder: Option<Arc<Finder>>,
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

    /// With markup that comes before the end of the body, or at the end of a page that does not say where that is.
    #[must_use]
    pub fn with_end(self, markup: &str) -> Self {
        Self::built(self.stretches, markup.as_bytes().to_vec())
    }

    /// The same for a page in another encoding than UTF-8. `None` for one in which markup is not written in bytes of ASCII.
    pub fn in_encoding(&self, encoding: PageEncoding) -> Option<Self> {
        if !encoding.has_ascii_markup() {
            return None;
        }
        let encoded = |bytes: &[u8]| encoding.encode_part(&String::from_utf8_lossy(bytes));
        let stretch = |stretch: &Stretch| {
            let (mut bytes, mut kept, mut splices) = (Vec::new(), 0, Vec::new());
            let part = |from: usize, to: usize| encoded(stretch.bytes.get(from..to).unwrap_or_default());
            for (at, with) in &stretch.splices {
                bytes.extend(part(kept, at.start));
                let start = bytes.len();
                bytes.extend(part(at.start, at.end));
                splices.push((start..bytes.len(), encoded(with)));
                kept = at.end;
            }
            bytes.extend(part(kept, stretch.bytes.len()));
            let (before, after) = (encoded(&stretch.before), encoded(&stretch.after));
            Stretch { bytes, before, after, splices, ..stretch.clone() }
        };
        Some(Self::built(self.stretches.iter().map(stretch).collect(), encoded(&self.at_end)))
    }

    /// About how many bytes it takes. O(stretches).
    pub fn weight(&self) -> usize {
        let of = |stretch: &Stretch| {
            stretch.bytes.len() * 4 + stretch.splices.iter().map(|(_, with)| with.len() + 48).sum::<usize>()
        };
        self.stretches.iter().map(of).sum::<usize>() + self.at_end.len() + 4096
    }

    /// Whether pages pass as they came.
    pub fn is_empty(&self) -> bool {
        self.stretches.is_empty() && self.at_end.is_empty()
    }

    /// The changes that are made, by their places among those that were asked for, in their order.
    pub fn links(&self) -> Vec<usize> {
        let mut links: Vec<_> = self.stretches.iter().flat_map(|stretch| stretch.links.iter().copied()).collect();
        links.sort_unstable();
        links
    }

    /// What tells it from others: of two that are alike, pages come out alike. O(bytes).
    pub fn hash(&self) -> ContentHash {
        let mut all = String::new();
        for stretch in &self.stretches {
            all.push_str(&format!(
                "{:?}",
                (&stretch.before, &stretch.bytes, &stretch.after, stretch.nth, &stretch.splices)
            ));
        }
        all.push_str(&format!("{:?}", self.at_end));
        ContentHash::of(&all)
    }

    fn built(stretches: Vec<Stretch>, at_end: Vec<u8>) -> Self {
        let mut rows: Vec<&[u8]> = stretches.iter().map(|stretch| stretch.bytes.as_slice()).collect();
        // Of two that begin alike the longer one is meant.
        rows.sort_unstable_by_key(|row| (usize::MAX - row.len(), *row));
        rows.dedup();
        let of_row = |row: &&[u8]| (0..stretches.len()).filter(|at| stretches[*at].bytes == **row).collect();
        let of_bytes = rows.iter().map(of_row).collect();
        let ends = END_OF_BODY.iter().filter(|_| !at_end.is_empty()).copied();
        // What is too much for it is left alone.
        let finder = Finder::of(rows.iter().copied().chain(ends)).map(Arc::new);
        Self { of_bytes, finder, at_end, stretches }
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

/// Where a body ends, as it is mostly written.
pub(super) const END_OF_BODY: [&[u8]; 2] = [b"</body", b"</BODY"];

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
        let splice = |splice: &&crate::document::Splice| {
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
