//! Blocks: the stretches of text that a reader sees as one piece.

use super::region::Region;
use super::span::TextSpan;

/// Index of a block in its document, in source order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct BlockId(pub u32);

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

#[derive(Debug, Clone, Copy)]
pub struct Block {
    pub text: TextSpan,
    pub kind: BlockKind,
    pub region: Region,
}
