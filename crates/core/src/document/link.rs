//! A link as it stands in a page.

use super::block::BlockId;
use super::region::Region;
use super::span::{SourceSpan, TextSpan};

/// What carries the link.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum LinkKind {
    Text,
    /// A picture alone: its alternative text is the anchor text.
    Picture,
}

#[derive(Debug, Clone)]
pub struct Link {
    /// From the `<` of the start tag to the end of the end tag (or to where the element was closed for it).
    pub source: SourceSpan,
    /// The start tag alone.
    pub start_tag: SourceSpan,
    /// The end tag alone; `None` when the link was closed without one.
    pub end_tag: Option<SourceSpan>,
    /// The value of `href`, character references resolved, white space at the ends removed.
    pub href: String,
    /// The words that carry the link; empty for a picture.
    pub text: TextSpan,
    pub kind: LinkKind,
    /// Alternative text of the first picture inside.
    pub alt: Option<String>,
    /// Lower-case tokens of `rel`.
    pub rel: Vec<String>,
    pub region: Region,
    /// The block in which the link starts; `None` when it starts outside of any text.
    pub block: Option<BlockId>,
}
