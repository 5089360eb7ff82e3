//! What the site model knows of one page.

use super::address::Address;
use crate::language::Language;

/// Number of a page within its site: small, dense, never used again for another page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PageId(pub u32);

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PageKind {
    Page,
    Post,
    Product,
    Collection,
    TermArchive,
    File,
}

impl PageKind {
    pub const ALL: [Self; 6] = [Self::Page, Self::Post, Self::Product, Self::Collection, Self::TermArchive, Self::File];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Page => "page",
            Self::Post => "post",
            Self::Product => "product",
            Self::Collection => "collection",
            Self::TermArchive => "term archive",
            Self::File => "file",
        }
    }

    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.as_str() == word)
    }

    /// The kind that a page's own words about itself tell: its microformats2 root, then its Open Graph type.
    ///
    /// `is_term` says that other pages link to it with `rel=tag`.
    pub fn from_signs(microformat: Option<&str>, open_graph: Option<&str>, is_term: bool) -> Self {
        match (microformat, open_graph) {
            _ if is_term => Self::TermArchive,
            (Some("h-product"), _) | (_, Some("product")) => Self::Product,
            (Some("h-feed"), _) => Self::Collection,
            (_, Some("article")) => Self::Post,
            _ => Self::Page,
        }
    }
}

#[derive(Debug, Clone)]
pub struct PageFacts {
    pub id: PageId,
    pub address: Address,
    pub kind: PageKind,
    pub title: String,
    pub heading: Option<String>,
    pub category: Option<String>,
    /// Words of its content.
    pub words: u32,
    pub language: Language,
    /// Whether its source can be had and changed through the site's editing interface.
    pub editable: bool,
}
