//! Where a site says something: phrases in all parts of its pages, linked or not.

mod part;
mod search;

pub use part::Part;
pub use search::{Carries, MentionPlace, Mentioned, Searcher, Wanted};
