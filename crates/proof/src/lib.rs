//! Proof that edits do what they say and nothing else, judged by parsers that are not ours: `html5ever` builds the tree
//! that a browser builds, `comrak` reads CommonMark. For `cargo xtask prove` and, on a sample, for the tests.

pub mod documents;
pub mod hostile;
pub mod html;
pub mod markdown;
pub mod outline;
pub mod report;
pub mod sample;
pub mod site;
pub mod torn;
