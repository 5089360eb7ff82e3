//! Sentences after Unicode's UAX 29.

use unicode_segmentation::UnicodeSegmentation;

use crate::document::TextSpan;

/// The sentences of a block, one behind the other, with the white space at their ends. A line end in a page's source does not
/// end a sentence. O(n).
pub fn sentences(block: &str) -> Vec<TextSpan> {
    let running: String = block.chars().map(|c| if matches!(c, '\n' | '\r') { ' ' } else { c }).collect();
    let bounds = running.split_sentence_bound_indices();
    bounds.map(|(start, sentence)| TextSpan::new(start, start + sentence.len())).collect()
}

/// The sentence of `block` in which `words` stand, without white space at its ends; both spans count from the start
/// of `block`.
///
/// Words over a sentence's end get both sentences. O(n).
pub fn sentence_around(block: &str, words: TextSpan) -> TextSpan {
    let mut around = TextSpan::new(words.start, words.end);
    for span in sentences(block).into_iter().filter(|span| span.overlaps(words)) {
        around = TextSpan::new(around.start.min(span.start), around.end.max(span.end));
    }
    let text = &block[around.range()];
    let start = around.start + (text.len() - text.trim_start().len());
    TextSpan::new(start, start + text.trim().len())
}

/// The same in offsets of the whole text, of which `block` is a part. O(length of the block).
pub fn sentence_within(text: &str, block: TextSpan, words: TextSpan) -> TextSpan {
    let start = block.start;
    let in_block = TextSpan::new(words.start.saturating_sub(start), words.end.saturating_sub(start));
    match text.get(block.range()) {
        Some(block) if in_block.end <= block.len() => {
            let sentence = sentence_around(block, in_block);
            TextSpan::new(start + sentence.start, start + sentence.end)
        }
        _ => words,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_end_in_the_source_does_not_end_a_sentence() {
        let block = "First one. The moon\nrises late. Third.";
        let words = TextSpan::new(15, 19);
        assert_eq!(&block[sentence_around(block, words).range()], "The moon\nrises late.");
    }
}
