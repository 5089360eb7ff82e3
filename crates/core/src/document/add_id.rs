//! Giving an element an `id`, so that a fragment can point at it.

use super::edit::{Edit, Splice};
use super::put_link::Refusal;
use super::span::SourceSpan;
use super::text::fold_space;
use super::tree::ROOT;
use super::{BlockId, BlockKind, Document, Format, markdown};

impl Document {
    /// The edit that lets a fragment point at a block, and the fragment. It is made of the first words of the block and
    /// is like no other on the page. O(ids + text of the block).
    ///
    /// # Errors
    /// [`Refusal::NotThere`] when there is no such block or no element around it alone. In Markdown only headings can
    /// have an id.
    pub fn add_id(&self, block: BlockId) -> Result<(Edit, String), Refusal> {
        let block = self.blocks().get(block.0 as usize).ok_or(Refusal::NotThere)?;
        if block.node == ROOT {
            return Err(Refusal::NotThere);
        }
        let id = self.new_id(self.text().slice(block.text));
        if self.tree().node(block.node).mended {
            return Err(Refusal::CrossesMarkup);
        }
        let start_tag = self.tree().node(block.node).start_tag;
        let (at, with) = match (self.format(), block.kind) {
            (Format::Html, _) => {
                let tag = self.source().get(start_tag.range()).unwrap_or_default();
                // A browser takes the first of two ids: an element with one keeps it.
                let read = Document::from_html(tag);
                if let Some(known) = read.ids().next() {
                    return Ok((Edit::nothing(self.hash()), known.to_owned()));
                }
                let name = tag.bytes().skip(1).take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'-').count();
                (start_tag.start + 1 + name, format!(" id=\"{id}\""))
            }
            (Format::Markdown, BlockKind::Heading(_)) => {
                let end = block.text.start + self.text().slice(block.text).trim_end().len();
                (self.text().source_end(end).ok_or(Refusal::Untraceable)?, format!(" {{#{id}}}"))
            }
            (Format::Markdown, _) => return Err(Refusal::NotInMarkdown),
        };
        let edit = Edit::new(self.hash(), vec![Splice { at: SourceSpan::new(at, at), with }]);
        let edit = edit.map_err(|_| Refusal::CrossesMarkup)?;
        let after = edit.apply(self.source()).map(|source| Document::read(source, self.format()));
        let is_right = after
            .is_ok_and(|after| after.text().as_str() == self.text().as_str() && after.ids().any(|known| known == id));
        if is_right { Ok((edit, id)) } else { Err(Refusal::ChangesMore) }
    }

    fn new_id(&self, text: &str) -> String {
        let start: String = fold_space(text).split(' ').take(6).collect::<Vec<_>>().join(" ");
        let slug = markdown::slug(&start);
        let stem = if slug.is_empty() { "part".to_owned() } else { slug };
        let is_free = |id: &String| !self.ids().any(|known| known == id);
        let numbered = (2..).map(|number| format!("{stem}-{number}"));
        std::iter::once(stem.clone()).chain(numbered).find(is_free).unwrap_or(stem)
    }
}
