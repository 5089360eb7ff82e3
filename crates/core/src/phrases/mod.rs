//! The phrases by which pages are named, and where those phrases stand in the prose of other pages.

mod abbreviations;
mod anchors;
mod book;
mod lexicon;
mod meaning;
mod mention;
mod names;
mod places;
mod postings;
mod proposals;
mod prose;
mod repeated;
mod telling;
mod title_ends;
mod token;
mod trie;

pub(crate) use anchors::MOST_LINKED;
pub use anchors::{Anchor, Anchors};
pub use book::{BookText, Counts, PhraseBook, PhraseUse};
pub use lexicon::{Lexicon, TermId};
pub use mention::{Mention, Naming};
pub use names::{Name, NameSource, NamedPlace, Outline};
pub use proposals::Proposal;
pub use prose::{Prose, ReadProse, Stretch, bag_of};
pub use token::{Token, TokenMarks};
pub use trie::{PhraseId, Trie};
