//! Blocks: the stretches of text that a reader sees as one piece.

use super::region::Region;
use super::span::TextSpan;

/// Index of a block in its document, in source order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct BlockId(pub u32);

impl BlockId {
    pub(crate) fn at(index: usize) -> Self {
        Self(u32::try_from(index).unwrap_or(u32::MAX))
    }
}

/// What a block of text is on its page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum BlockKind {
    /// Level 1 to 6.
    Heading(u8),
    Paragraph,
    ListItem,
    Cell,
    Quote,
    Caption,
    /// Preformatted text.
    Code,
    Summary,
    /// The term of a description list.
    Term,
}

impl BlockKind {
    /// Whether an editor would look for links to add here: running text, not labels or code.
    pub const fn is_prose(self) -> bool {
        matches!(self, Self::Paragraph | Self::ListItem | Self::Cell | Self::Quote | Self::Caption)
    }
}

/// Where on its page a block stands: a hash of the names, ids and classes of the elements around it. Blocks in the same
/// place of pages made from one template have the same.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PlaceKey(pub u64);

/// A block of text: a paragraph, a heading, a list item, a cell.
#[derive(Debug, Clone, Copy)]
pub struct Block {
    pub text: TextSpan,
    pub kind: BlockKind,
    pub region: Region,
    pub place: PlaceKey,
    /// Counts what [`Document::language_of`](super::Document::language_of) tells.
    pub(crate) language: Option<u8>,
    /// The innermost block element around it.
    pub(crate) node: u32,
}
