//! What the place on the page tells.

use super::grade::grade;
use super::page::{Page, Pair, Target};
use crate::document::BlockKind;
use crate::logarithms::ln_1p;
use crate::phrases::{Mention, TokenMarks};

pub(super) const NAMES: [&str; 14] = [
    "before on the page",
    "share of the page before",
    "kind of block",
    "how often linked after the word before",
    "emphasised",
    "inside a longer name",
    "linked share of the block",
    "words of the block",
    "mark before",
    "words of the block before",
    "blocks of the page with the words",
    "before on the page by names as good",
    "better names of the target on the page",
    "better names of the target in the block",
];

/// In the order of [`NAMES`]. O(length of the text before) for the mark before the words.
pub(super) fn of(page: &Page<'_>, mention: &Mention, target: &Target<'_>, pair: Pair) -> [f32; NAMES.len()] {
    let tokens = page.prose.tokens();
    let block = page.prose.block_of(mention.first);
    let (first, end, linked) = block.map_or((0, 1, 0), |block| (block.first, block.end, block.linked));
    let kind = match block.map(|block| block.kind) {
        Some(BlockKind::Paragraph) => 4.0,
        Some(BlockKind::ListItem) => 3.0,
        Some(BlockKind::Quote) => 2.0,
        Some(BlockKind::Cell) => 1.0,
        _ => 0.0,
    };
    let after = tokens.get(mention.first.wrapping_sub(1)).filter(|_| mention.first > first as usize);
    let anchors = page.book.anchors();
    let cue = after.map_or(0.0, |token| {
        let (linked, all) = (anchors.after(token.term()) as f32, page.book.document_frequency(token.term()) as f32);
        ((linked + 0.2) / (linked + all + 10.0)).ln()
    });
    let span = tokens[mention.first].span();
    let mark = match page.prose.text().get(..span.start).and_then(|text| text.chars().next_back()) {
        Some('(' | '[') => 1.0,
        Some('"' | '\'' | '“' | '‘' | '«' | '„') => 2.0,
        Some(c) if !c.is_whitespace() => 3.0,
        _ => 0.0,
    };
    let (cover_first, cover_end) = page.covers[mention.first];
    let grade = grade(mention);
    let before: u32 = target.passed.iter().sum();
    let passed: u32 = target.passed[grade..].iter().sum();
    let is_inside = (cover_end - cover_first) as usize > mention.len;
    [
        ln_1p(before as usize),
        mention.first as f32 / tokens.len().max(1) as f32,
        kind,
        cue,
        f32::from(u8::from(tokens[mention.first].has(TokenMarks::EMPHASISED))),
        f32::from(u8::from(is_inside)),
        linked as f32 / (end - first).max(1) as f32,
        ln_1p((end - first) as usize),
        mark,
        ln_1p(mention.first.saturating_sub(first as usize)),
        ln_1p(page.blocks_with.get(&mention.phrase).copied().unwrap_or_default() as usize),
        ln_1p(passed as usize),
        target.named.grade.saturating_sub(grade) as f32,
        pair.grade.saturating_sub(grade) as f32,
    ]
}
