//! Where a site says something: phrases on its pages as they are in memory.

mod count;
mod query;

pub use count::{MentionCount, MentionsFound, PageMentions};
pub use query::{MentionOrder, MentionQuery, MentionState};
