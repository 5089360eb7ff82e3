//! What is to be put into a page as it passes.

use std::hash::{Hash, Hasher};
use std::sync::Arc;

use rustc_hash::FxHasher;

use super::finder::Finder;
use super::stretch::Stretch;
use crate::document::encoding::PageEncoding;

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
    pub fn hash(&self) -> u64 {
        let mut hasher = FxHasher::default();
        (&self.stretches, &self.at_end).hash(&mut hasher);
        hasher.finish()
    }

    pub(super) fn built(stretches: Vec<Stretch>, at_end: Vec<u8>) -> Self {
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
}

/// Where a body ends, as it is mostly written.
pub(super) const END_OF_BODY: [&[u8]; 2] = [b"</body", b"</BODY"];
