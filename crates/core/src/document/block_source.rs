//! The source of one block, as somebody would copy it and put it back.

use super::span::{SourceSpan, TextSpan};
use super::tree::{Node, ROOT};
use super::{Block, Document, Format};

impl Document {
    /// The block in which a text offset stands, or the last before it. O(log blocks).
    pub fn block_at(&self, at: usize) -> Option<&Block> {
        let after = self.blocks().partition_point(|block| block.text.start <= at);
        self.blocks().get(after.checked_sub(1)?)
    }

    /// What of the source makes up a block: its element with both tags where it holds nothing else, else all between the
    /// tags of blocks around it; in Markdown its whole lines. Nothing for a block without text. O(elements).
    pub fn source_of_block(&self, block: &Block) -> Option<SourceSpan> {
        let words = self.trimmed(block.text)?;
        let first = self.text().source_start(words.start)?;
        let last = self.text().source_end(words.end)?;
        if self.format() == Format::Markdown {
            let start = self.source()[..first].rfind('\n').map_or(0, |end| end + 1);
            let end = self.source()[last..].find('\n').map_or(self.source().len(), |end| last + end);
            return Some(SourceSpan::new(start, end));
        }
        let node = self.tree().node(block.node);
        let (mut start, mut end) = (0, self.source().len());
        for tag in self.tree().nodes().iter().filter(|node| node.is_block).flat_map(tags) {
            if tag.end <= first {
                start = start.max(tag.end);
            } else if tag.start >= last {
                end = end.min(tag.start);
            }
        }
        let is_alone = node.start_tag.end == start && node.end_tag.is_none_or(|tag| tag.start == end);
        if block.node != ROOT && is_alone {
            start = node.start_tag.start;
            end = node.end_tag.map_or(end, |tag| tag.end);
        }
        let text = self.source().get(start..end)?;
        let lead = text.len() - text.trim_start().len();
        Some(SourceSpan::new(start + lead, start + lead + text.trim().len()))
    }

    fn trimmed(&self, span: TextSpan) -> Option<TextSpan> {
        let text = self.text().slice(span);
        let start = span.start + (text.len() - text.trim_start().len());
        let trimmed = TextSpan::new(start, start + text.trim().len());
        (!trimmed.is_empty()).then_some(trimmed)
    }
}

fn tags(node: &Node) -> impl Iterator<Item = SourceSpan> {
    std::iter::once(node.start_tag).chain(node.end_tag)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn blocks(source: &str, format: Format) -> Vec<String> {
        let document = Document::read(source, format);
        let source_of = |block| Some(document.source()[document.source_of_block(block)?.range()].to_owned());
        document.blocks().iter().filter_map(source_of).collect()
    }

    #[test]
    fn a_block_is_its_element_or_what_stands_between_others() {
        let html =
            "<div> Loose <b>words</b> <p class=a><a href=/x>All</a> of it</p> then <ul><li>one<li>two</ul></div>";
        let expected = ["Loose <b>words</b>", "<p class=a><a href=/x>All</a> of it</p>", "then", "<li>one", "<li>two"];
        assert_eq!(blocks(html, Format::Html), expected);
        assert_eq!(blocks("No markup at all", Format::Html), ["No markup at all"]);
        assert_eq!(blocks("<p>One<p>Two <i>and</i>", Format::Html), ["<p>One", "<p>Two <i>and</i>"]);
    }

    #[test]
    fn a_block_of_markdown_is_its_lines() {
        let text = "# Top\n\nOne [link](/x)\nand **more**\n\n- first\n- second\n";
        assert_eq!(blocks(text, Format::Markdown), ["# Top", "One [link](/x)\nand **more**", "- first", "- second"]);
    }

    #[test]
    fn the_block_at_an_offset_is_the_one_that_holds_it() {
        let document = Document::from_html("<p>One</p><p>Two</p>");
        let at = document.text().as_str().find("Two").unwrap();
        let found = document.block_at(at + 1).map(|block| document.text().slice(block.text).trim().to_owned());
        assert_eq!(found.as_deref(), Some("Two"));
    }
}
