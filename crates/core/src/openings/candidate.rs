//! Places that could carry a link, judged once and small enough to be kept for a whole site.

use std::cmp::Ordering;

use super::part::Part;
use crate::ids::PageId;
use crate::phrases::{Mention, PhraseId};

/// A place at which words name a page.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Candidate {
    pub target: PageId,
    pub phrase: PhraseId,
    /// The first word among the tokens of the page.
    pub first: u32,
    pub len: u16,
    /// What the trees of each part say; for the need, which changes with each link, see [`super::Judge::weigh`].
    parts: [f32; 5],
    /// How sure the words mean the page, see [`Judged::sureness`](super::Judged::sureness).
    sureness: f32,
}

/// What a candidate is worth now.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Weighed {
    /// What each part adds before this site's taste, and with it.
    pub untaught: [f32; 5],
    pub adds: [f32; 5],
    /// That it is kept.
    pub log_odds: f32,
    /// The same without what the target lacks: a find does not become better by it, nor goes from sight when it got a
    /// link.
    pub without_need: f32,
}

/// What is worth more stands first.
pub(super) fn better_first(a: &(Candidate, Weighed), b: &(Candidate, Weighed)) -> Ordering {
    b.1.log_odds.total_cmp(&a.1.log_odds).then_with(|| a.0.place().cmp(&b.0.place()))
}

impl Candidate {
    /// A mention with what the trees of each part say of it, and how sure the words mean the page. `None` on pages that are
    /// too long to be counted.
    pub(super) fn of(mention: &Mention, parts: [f32; 5], sureness: f32) -> Option<Self> {
        let (first, len) = (u32::try_from(mention.first).ok()?, u16::try_from(mention.len).ok()?);
        Some(Self { target: mention.target(), phrase: mention.phrase, first, len, parts, sureness })
    }

    /// The number of its first token in the prose of its page.
    pub fn first(&self) -> usize {
        self.first as usize
    }

    /// The number of the token after its last.
    pub fn end(&self) -> usize {
        self.first as usize + usize::from(self.len)
    }

    pub(super) fn kept(
        target: PageId,
        phrase: PhraseId,
        (first, len): (u32, u16),
        (parts, sureness): ([f32; 5], f32),
    ) -> Self {
        Self { target, phrase, first, len, parts, sureness }
    }

    pub(super) fn parts(&self) -> &[f32; 5] {
        &self.parts
    }

    pub(super) fn sureness(&self) -> f32 {
        self.sureness
    }

    /// Whether both stand on the same words and lead to the same page.
    fn is_place_of(&self, other: &Self) -> bool {
        self.place() == other.place()
    }

    pub(super) fn place(&self) -> (PageId, u32, u16) {
        (self.target, self.first, self.len)
    }

    /// Whether some candidates are the same places as others, in any order. O(n log n).
    pub fn are_places_of(some: &[Self], others: &[Self]) -> bool {
        let ordered = |row: &[Self]| {
            let mut row = row.to_vec();
            row.sort_by_key(Self::place);
            row
        };
        let (some, others) = (ordered(some), ordered(others));
        some.len() == others.len() && some.iter().zip(&others).all(|(one, other)| one.is_place_of(other))
    }

    /// What it is worth but for the need of its target.
    pub(super) fn rest(&self) -> f32 {
        self.parts.iter().sum::<f32>() - self.parts[Part::Need as usize]
    }
}
