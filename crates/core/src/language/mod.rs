//! Words and sentences, and what makes two forms of a word the same. Knows text only, no pages.

mod fold;
mod sentences;
mod stem;
mod stop_words;
mod words;

pub use fold::fold;
pub use sentences::sentence_around;
pub use stem::{Language, Stemmer};
pub use stop_words::is_stop_word;
pub use words::{Word, words};
