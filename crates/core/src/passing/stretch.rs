//! A stretch of a page that is looked for as the page passes, and what is put into it.

use std::ops::Range;

/// What stands on either side of a stretch counts as far as this, so that a sentence which became longer is another one.
pub(super) const LONGEST_SIDE: usize = 64;

/// Bytes of a page that stand there as they did, with what stands beside them.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(super) struct Stretch {
    pub bytes: Vec<u8>,
    pub before: Vec<u8>,
    pub after: Vec<u8>,
    /// Of several that are alike, this one is meant, counted from nought.
    pub nth: usize,
    /// What is put in the place of bytes of the stretch, in their order.
    pub splices: Vec<(Range<usize>, Vec<u8>)>,
    /// The links that come with it, by their place among those that were asked for.
    pub links: Vec<usize>,
}

impl Stretch {
    /// With what is put into it.
    pub fn write(&self, out: &mut Vec<u8>) {
        let mut kept = 0;
        for (at, with) in &self.splices {
            out.extend_from_slice(self.bytes.get(kept..at.start).unwrap_or_default());
            out.extend_from_slice(with);
            kept = at.end;
        }
        out.extend_from_slice(self.bytes.get(kept..).unwrap_or_default());
    }
}

/// A place beside a stretch of a text, as far as the first letter that is no space. O(1).
pub(super) fn before(source: &str, at: usize) -> &str {
    let nearest = source.floor_char_boundary(at.saturating_sub(LONGEST_SIDE));
    let near = source.get(nearest..at).unwrap_or_default();
    let start = near.trim_end().char_indices().next_back().map_or(0, |(start, _)| start);
    near.get(start..).unwrap_or_default()
}

/// The same after it.
pub(super) fn after(source: &str, at: usize) -> &str {
    let farthest = source.ceil_char_boundary(at.saturating_add(LONGEST_SIDE).min(source.len()));
    let near = source.get(at..farthest).unwrap_or_default();
    let first = near.char_indices().find(|(_, letter)| !letter.is_whitespace());
    let end = first.map_or(near.len(), |(start, letter)| start + letter.len_utf8());
    near.get(..end).unwrap_or_default()
}
