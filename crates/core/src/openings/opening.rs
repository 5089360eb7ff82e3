//! What is found: a place for a link.

use std::sync::Arc;

use super::fit::Fit;
use crate::document::TextSpan;
use crate::ids::PageId;
use crate::phrases::NamedPlace;

/// A place in a page's text where a link to another page would fit.
#[derive(Debug, Clone)]
pub struct Opening {
    pub source: PageId,
    pub target: PageId,
    /// In the text layer of the source page's document.
    pub words: TextSpan,
    /// The sentence around the words, in the same text.
    pub sentence: TextSpan,
    /// The place on the target that the words name, when it is not the page as a whole.
    pub place: Option<Arc<NamedPlace>>,
    pub fit: Fit,
}
