//! A random choice of what could be edited on a page, always the same for the same seed.

use fastrand::Rng;
use strelm_core::document::{Document, TextSpan};
use strelm_core::language::words;

/// At most `most` runs of one to four neighbouring words of any blocks. O(words).
pub fn spans(document: &Document, most: usize, random: &mut Rng) -> Vec<TextSpan> {
    let mut spans = Vec::new();
    for block in document.blocks() {
        let found: Vec<_> = words(document.text().slice(block.text)).map(|word| word.span).collect();
        for first in 0..found.len() {
            let last = (first + random.usize(0..4)).min(found.len() - 1);
            spans.push(TextSpan::new(block.text.start + found[first].start, block.text.start + found[last].end));
        }
    }
    random.shuffle(&mut spans);
    spans.truncate(most);
    spans
}

/// At most `most` of the numbers below `count`, in no order.
pub fn ordinals(count: usize, most: usize, random: &mut Rng) -> Vec<usize> {
    let mut all: Vec<_> = (0..count).collect();
    random.shuffle(&mut all);
    all.truncate(most);
    all
}
