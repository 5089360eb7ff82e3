//! Pages as they pass: edits are put into the bytes of a page while they go by, without the page as a whole.
//!
//! What is known of a page beforehand is a [`PassingEdit`]: the sentences that are to carry links, byte by byte, and what is put
//! into them. A [`Passage`] looks for these bytes in what goes by and holds back no more of it than may yet become one of them.
//! Whatever else is on the page passes as it came; a sentence that has changed is left alone. [`Whereabouts`] tells where bytes
//! stand in the markup, so that what only looks like the sentence, in a script or a comment, is left alone too.

mod edit;
mod finder;
mod footer;
mod footer_in_page;
mod of_document;
mod passage;
mod plain_tag;
mod script;
mod stretch;
mod whereabouts;

/// The header with which a page is asked for as it is on its site: whoever reads the site for Strelm sends it, and edges put
/// nothing into what they pass on.
pub const AS_IT_IS: &str = "strelm-as-it-is";

pub use edit::PassingEdit;
pub use footer::{FooterError, FooterLink, FooterLinks, FooterTarget};
pub use footer_in_page::with_footer;
pub use of_document::PassingLink;
pub use passage::Passage;
pub use whereabouts::Whereabouts;
