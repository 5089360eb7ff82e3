//! The parts of a page in which phrases are looked for.

use crate::document::{Block, BlockKind, Region};

/// A part of a page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Part {
    /// Running text.
    Text,
    Heading,
    List,
    Table,
    Quote,
    Caption,
    Code,
    /// Whatever stands on many pages alike: menus, headers, footers.
    Menu,
    /// What pictures say to whoever does not see them.
    Alt,
    /// The title of the page, which stands in no text of it.
    Title,
}

impl Part {
    pub const ALL: [Self; 10] = [
        Self::Text,
        Self::Heading,
        Self::List,
        Self::Table,
        Self::Quote,
        Self::Caption,
        Self::Code,
        Self::Menu,
        Self::Alt,
        Self::Title,
    ];

    /// In which a block stands.
    pub const fn of(block: &Block) -> Self {
        match (block.region, block.kind) {
            (Region::Content, BlockKind::Heading(_)) => Self::Heading,
            (Region::Content, BlockKind::ListItem | BlockKind::Term) => Self::List,
            (Region::Content, BlockKind::Cell) => Self::Table,
            (Region::Content, BlockKind::Quote) => Self::Quote,
            (Region::Content, BlockKind::Caption) => Self::Caption,
            (Region::Content, BlockKind::Code) => Self::Code,
            (Region::Content, BlockKind::Paragraph | BlockKind::Summary) => Self::Text,
            _ => Self::Menu,
        }
    }

    /// As it is asked for.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Heading => "headings",
            Self::List => "lists",
            Self::Table => "tables",
            Self::Quote => "quotes",
            Self::Caption => "captions",
            Self::Code => "code",
            Self::Menu => "menus",
            Self::Alt => "alt",
            Self::Title => "titles",
        }
    }

    /// The part with this name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|part| part.name() == name)
    }
}
