//! What is looked for, as editors ask for it.

use serde::Deserialize;
use strelm_core::mentions::Part;
use strelm_core::rules::{Matching, Phrase};
use strelm_live::PageQuery;
use strelm_live::mentions::{MentionOrder, MentionQuery, MentionState};
use utoipa::ToSchema;

use crate::api::ApiError;

/// Pages of which all mentions are told at once.
const MOST_PAGES: usize = 50;

/// More phrases are not looked for at once.
const MOST_PHRASES: usize = 100;

/// Phrases, and what counts as one of them. What is left out is as it is at first.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct MentionsWish {
    phrases: Vec<String>,
    /// Whether the phrases are regular expressions.
    #[serde(default)]
    expressions: bool,
    /// Whether other forms of the words are meant too.
    #[serde(default = "yes")]
    forms: bool,
    #[serde(default)]
    keeps_case: bool,
    #[serde(default)]
    keeps_accents: bool,
    /// So many other words may stand between two of a phrase; ten at most.
    #[serde(default)]
    gap: usize,
    /// In which parts of pages; none for all that are known.
    #[serde(default)]
    parts: Vec<PartName>,
    /// Only this one of the phrases, counted from 0.
    only: Option<usize>,
    #[serde(default)]
    state: StateName,
    #[serde(default)]
    order: OrderName,
    /// All mentions of these pages, rather than the first of each.
    pages: Option<Vec<u32>>,
}

/// A part of pages in which phrases are looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartName {
    Text,
    Headings,
    Lists,
    Tables,
    Quotes,
    Captions,
    Code,
    Alt,
    Titles,
}

/// Which mentions are told.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StateName {
    #[default]
    All,
    Linked,
    Unlinked,
}

/// In which order pages come.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum OrderName {
    /// Those with the most mentions first.
    #[default]
    Mentions,
    /// As `sort` says.
    Sort,
}

const fn yes() -> bool {
    true
}

impl PartName {
    const ALL: [(Self, Part); 9] = [
        (Self::Text, Part::Text),
        (Self::Headings, Part::Heading),
        (Self::Lists, Part::List),
        (Self::Tables, Part::Table),
        (Self::Quotes, Part::Quote),
        (Self::Captions, Part::Caption),
        (Self::Code, Part::Code),
        (Self::Alt, Part::Alt),
        (Self::Titles, Part::Title),
    ];

    fn part(self) -> Option<Part> {
        Self::ALL.into_iter().find(|(name, _)| *name == self).map(|(_, part)| part)
    }

    /// What stands on many pages alike is in no prose, and has no name here.
    pub fn of(part: Part) -> Option<Self> {
        Self::ALL.into_iter().find(|(_, known)| *known == part).map(|(name, _)| name)
    }
}

impl MentionsWish {
    /// # Errors
    /// [`ApiError::Unusable`] when a phrase cannot be looked for.
    pub fn query(&self, pages: PageQuery) -> Result<MentionQuery, ApiError> {
        if self.phrases.len() > MOST_PHRASES {
            return Err(ApiError::Unusable(format!("Look for at most {MOST_PHRASES} phrases at once.")));
        }
        let phrase = |text: &String| match self.expressions {
            true => Phrase::expression(text),
            false => Phrase::words(text),
        };
        let phrases = self.phrases.iter().map(phrase).collect::<Result<Vec<_>, _>>();
        let phrases = phrases.map_err(|why| ApiError::Unusable(why.to_string()))?;
        if self.pages.as_ref().is_some_and(|pages| pages.len() > MOST_PAGES) {
            return Err(ApiError::Unusable(format!("Ask for all mentions of at most {MOST_PAGES} pages at once.")));
        }
        if self.gap > 10 {
            return Err(ApiError::Unusable("At most ten other words may stand between two of a phrase.".to_owned()));
        }
        let matching = Matching {
            forms: self.forms && !self.expressions,
            keeps_case: self.keeps_case,
            keeps_accents: self.keeps_accents,
            gap: self.gap,
            ..Matching::default()
        };
        let parts = match self.parts.is_empty() {
            true => PartName::ALL.iter().map(|(_, part)| *part).collect(),
            false => self.parts.iter().filter_map(|name| name.part()).collect(),
        };
        Ok(MentionQuery {
            phrases,
            matching,
            parts,
            pages,
            order: match self.order {
                OrderName::Mentions => MentionOrder::Count,
                OrderName::Sort => MentionOrder::Listed,
            },
            state: match self.state {
                StateName::All => MentionState::All,
                StateName::Linked => MentionState::Linked,
                StateName::Unlinked => MentionState::Unlinked,
            },
            only: self.only,
        })
    }

    /// Pages of which all mentions are asked for.
    pub fn pages(&self) -> Option<&[u32]> {
        self.pages.as_deref()
    }
}
