//! Passing openings: one place, a pair of pages, or all that lead to a page.

use serde::Deserialize;
use strelm_core::document::TextSpan;
use strelm_core::site::PageId;
use strelm_core::tray::{Passed, PassedPlace};
use utoipa::ToSchema;

use crate::api::ApiError;
use crate::api::pages::Sentence;
use crate::api::state::page_of;
use strelm_live::Model;

/// More of the words are not kept.
const LONGEST_ANCHOR: usize = 300;

/// How much is set aside.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PassScope {
    /// These words in this sentence.
    Place,
    /// All places of the page that would lead to the target.
    Pair,
    /// All places of all pages that would lead to the target.
    Page,
}

/// An opening that is not wanted.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct PassWish {
    source: u32,
    target: u32,
    /// Byte offsets into the text of the source page.
    words_start: usize,
    words_end: usize,
    scope: PassScope,
    /// The words, to recognise it by.
    anchor: String,
}

impl PassWish {
    /// What is set aside, and what its fit was made of as long as it was wanted.
    pub fn passed(&self, model: &Model) -> Result<(Passed, Option<[f32; 5]>), ApiError> {
        page_of(model, self.source)?;
        page_of(model, self.target)?;
        let (source, target) = (PageId(self.source), PageId(self.target));
        let words = TextSpan::new(self.words_start, self.words_end.max(self.words_start));
        let lesson = model.opening_on(source, target, words).map(|opening| opening.fit.lesson());
        let anchor: String = self.anchor.chars().filter(|c| *c != '\0').take(LONGEST_ANCHOR).collect();
        let passed = match self.scope {
            PassScope::Page => Passed { source: None, target, anchor, place: None },
            PassScope::Pair => Passed { source: Some(source), target, anchor, place: None },
            PassScope::Place => {
                let sentence = model.judge().sentence_of(source, words);
                let sentence = Sentence::on_page(model, source, sentence, words);
                if sentence.anchor.is_empty() {
                    let why = "These words are not on the page any more. Look at it once more.";
                    return Err(ApiError::Conflict(why.to_owned()));
                }
                let place = PassedPlace { before: sentence.before, after: sentence.after };
                Passed { source: Some(source), target, anchor: sentence.anchor, place: Some(place) }
            }
        };
        Ok((passed, lesson))
    }
}
