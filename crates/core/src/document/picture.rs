//! Pictures as they stand in a page.

use super::region::Region;
use super::span::SourceSpan;

/// An `img` of HTML, or an image of Markdown.
#[derive(Debug, Clone)]
pub struct Picture {
    pub source: SourceSpan,
    /// What it says to whoever does not see it; `None` when nothing was written.
    pub alt: Option<String>,
    /// The link that it stands in, by its ordinal.
    pub link: Option<usize>,
    /// How much of the page's text is before it.
    pub text_at: usize,
    pub region: Region,
    pub(crate) node: u32,
    pub(crate) mended: bool,
}
