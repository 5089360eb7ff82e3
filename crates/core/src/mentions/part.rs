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

    /// Those that [`super::Searcher::in_prose`] knows.
    pub const IN_PROSE: [Self; 8] =
        [Self::Text, Self::Heading, Self::List, Self::Table, Self::Quote, Self::Caption, Self::Code, Self::Alt];

    /// In which a block stands.
    pub const fn of(block: &Block) -> Self {
        match block.region {
            Region::Content => Self::of_content(block.kind),
            _ => Self::Menu,
        }
    }

    /// In which a block of the content stands.
    pub const fn of_content(kind: BlockKind) -> Self {
        match kind {
            BlockKind::Heading(_) => Self::Heading,
            BlockKind::ListItem | BlockKind::Term => Self::List,
            BlockKind::Cell => Self::Table,
            BlockKind::Quote => Self::Quote,
            BlockKind::Caption => Self::Caption,
            BlockKind::Code => Self::Code,
            BlockKind::Paragraph | BlockKind::Summary => Self::Text,
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
