//! Where a site says something: phrases in all parts of its pages, linked or not.

mod in_prose;
mod part;
mod search;

pub use in_prose::ProseMention;
pub use part::Part;
pub use search::{Carries, MentionPlace, Mentioned, Searcher, Wanted};
