//! What is asked for, and where.

use std::collections::BTreeSet;

use strelm_core::mentions::{Part, ProseMention, Wanted};
use strelm_core::rules::{Matching, Phrase};

use crate::query::PageQuery;

/// Phrases, and where they are looked for.
#[derive(Debug, Clone)]
pub struct MentionQuery {
    pub phrases: Vec<Phrase>,
    pub matching: Matching,
    /// Menus are in no prose.
    pub parts: BTreeSet<Part>,
    /// On which pages, and in which order.
    pub pages: PageQuery,
    pub order: MentionOrder,
    pub state: MentionState,
    /// Only this one of the phrases; the others are counted all the same.
    pub only: Option<usize>,
}

/// In which order pages come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum MentionOrder {
    /// Those with the most mentions first, then as the list of pages has them.
    #[default]
    Count,
    /// As the list of pages has them.
    Listed,
}

/// Which mentions are told.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum MentionState {
    #[default]
    All,
    Linked,
    Unlinked,
}

impl MentionState {
    pub(super) const fn takes(self, mention: &ProseMention) -> bool {
        match self {
            Self::All => true,
            Self::Linked => mention.is_linked,
            Self::Unlinked => !mention.is_linked,
        }
    }
}

impl MentionQuery {
    /// The phrases, put together.
    pub(super) fn wanted(&self) -> Wanted {
        Wanted::new(self.phrases.clone(), self.matching.clone(), self.parts.clone())
    }

    /// Whether a mention is told.
    pub(super) fn tells(&self, mention: &ProseMention) -> bool {
        self.state.takes(mention) && self.only.is_none_or(|only| only == mention.phrase)
    }
}
