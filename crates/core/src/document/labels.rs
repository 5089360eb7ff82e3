//! What stands for a heading or a term without being marked up as one.

use super::block::{BlockId, BlockKind};
use super::elements::Element;
use super::inline::Inline;
use super::region::Region;
use super::span::TextSpan;
use super::title::is_dotted_number;
use super::{Block, Document};

/// Longer emphasised lines are not titles.
const LONGEST_TITLE: usize = 120;

/// Longer words between brackets are no marks of entries.
const LONGEST_MARK: usize = 40;

/// What a label is on its page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LabelKind {
    /// A line to which a fragment points, and which is emphasised as a whole, as of a box beside the text, or begins with
    /// the number of a section.
    Title,
    /// A piece of code with which a row of a table begins, as in tables of functions, settings and fields; or a name
    /// between brackets with which a paragraph begins, as in bibliographies.
    Term,
}

/// Words that name a place on a page without being a heading.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Label {
    pub kind: LabelKind,
    pub block: BlockId,
    pub text: TextSpan,
}

impl Document {
    /// The labels of the content, in order. O(blocks × depth of blocks + stretches × depth of inline elements).
    pub fn labels(&self) -> Vec<Label> {
        let inlines = self.inlines();
        let mut row = None;
        let mut found = Vec::new();
        for (id, block) in (0..).map(BlockId).zip(self.blocks()) {
            let before = std::mem::replace(&mut row, self.tree().around(block.node, Element::Tr));
            if block.region != Region::Content {
                continue;
            }
            let code = || self.code_at_start(block, &inlines);
            let term = (row.is_some() && row != before).then(code).flatten().or_else(|| self.mark_at_start(block));
            if let Some(text) = term {
                found.push(Label { kind: LabelKind::Term, block: id, text });
            } else if self.is_line(block)
                && (self.is_emphasised(block, &inlines) || self.is_numbered(block))
                && self.id_of(id).is_some()
            {
                found.push(Label { kind: LabelKind::Title, block: id, text: block.text });
            }
        }
        found
    }

    fn code_at_start(&self, block: &Block, inlines: &[Inline]) -> Option<TextSpan> {
        let text = self.text().slice(block.text);
        let start = block.text.start + (text.len() - text.trim_start().len());
        let at = inlines.partition_point(|inline| inline.text.end <= start);
        inlines.get(at)?.code.filter(|code| code.start <= start)
    }

    /// A name between brackets, as of an entry in a bibliography.
    fn mark_at_start(&self, block: &Block) -> Option<TextSpan> {
        let text = self.text().slice(block.text);
        let (mark, _) = text.trim_start().strip_prefix('[')?.split_once(']')?;
        let start = block.text.start + text.find('[')? + 1;
        let is_name =
            mark.len() <= LONGEST_MARK && !mark.contains(char::is_whitespace) && mark.contains(char::is_alphabetic);
        (block.kind.is_prose() && is_name).then(|| TextSpan::new(start, start + mark.len()))
    }

    fn is_line(&self, block: &Block) -> bool {
        block.kind == BlockKind::Paragraph && block.text.len() <= LONGEST_TITLE
    }

    fn is_emphasised(&self, block: &Block, inlines: &[Inline]) -> bool {
        let first = inlines.partition_point(|inline| inline.text.end <= block.text.start);
        let inside = inlines[first..].iter().take_while(|inline| inline.text.start < block.text.end);
        let is_said = |inline: &&Inline| !self.text().slice(inline.text).trim().is_empty();
        inside.filter(is_said).all(|inline| inline.emphasised)
    }

    /// Whether a block says “2.1 Words” and no sentence.
    fn is_numbered(&self, block: &Block) -> bool {
        let text = self.text().slice(block.text).trim();
        let Some((number, words)) = text.split_once(char::is_whitespace) else { return false };
        is_dotted_number(number.trim_end_matches('.'), 2)
            && words.trim_start().starts_with(char::is_alphabetic)
            && !words.ends_with(['.', ':', ';', ',', '!', '。'])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_and_emphasised_or_numbered_lines_are_labels() {
        let document = Document::from_html(
            "<table><tr><th>Function<th>Meaning<tr><td><p><code>now</code> ( ) → time<p><code>now</code> tells it\
             <tr><td> <code>random</code><td><code>0</code> to 1<tr><td>plain <code>code</code></table>\
             <div id=git><p><b>CULTURE</b> <em>Git</em></div><p><b>No id</b><p id=half><b>Half</b> bold<p><code>first</code>\
             <p id=n>2.1 The <i>moon</i><p id=s>3.5 inches are enough.<p id=c>2.2: No<p>2.3 Nobody points here\
             <p>[<abbr>KEPLER11</abbr>] Dioptrice<p>[ ] not yet<p>[1] a note<nav><p id=menu><b>Menu</b></nav>",
        );
        let labels: Vec<_> =
            document.labels().iter().map(|label| (label.kind, document.text().slice(label.text).trim())).collect();
        let expected = [
            (LabelKind::Term, "now"),
            (LabelKind::Term, "random"),
            (LabelKind::Title, "CULTURE Git"),
            (LabelKind::Title, "2.1 The moon"),
            (LabelKind::Term, "KEPLER11"),
        ];
        assert_eq!(labels, expected);
    }
}
