//! Words and sentences, and what makes two forms of a word the same. Knows text only, no pages.

mod common_words;
mod fold;
mod passage;
mod recognise;
mod sentences;
mod stem;
mod stop_words;
mod words;

pub use common_words::CommonWords;
pub use fold::{Keeps, fold, folded, folded_but};
pub use passage::Passages;
pub use recognise::recognise;
pub use sentences::{sentence_around, sentence_within, sentences};
pub use stem::{Language, Stemmer, Stems};
pub use stop_words::{StopWords, is_ideograph};
pub use words::{Word, words};
