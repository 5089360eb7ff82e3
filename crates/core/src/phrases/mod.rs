//! The phrases by which pages are named, and where those phrases stand in the prose of other pages.

mod book;
mod lexicon;
mod names;
mod prose;

pub use book::{Mention, PhraseBook};
pub use lexicon::{Lexicon, TermId};
pub use names::{Name, NameSource};
pub use prose::{Prose, Token};
