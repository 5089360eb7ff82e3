//! How often a rule links, and all rules together.

use serde::{Deserialize, Serialize};
use thiserror::Error;

/// How often one rule links.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Pace {
    /// Links of the rule on one page, at most; and of one of its phrases.
    pub per_page: usize,
    pub per_phrase: usize,
    /// Links in one sentence; `None` for what holds for all rules.
    pub per_sentence: Option<usize>,
    /// Links of the rule on the whole site.
    pub in_total: Option<u32>,
    /// Which share of its places it links.
    pub share: Share,
    /// Whether pages that lead to the target without the rule are left alone.
    pub skips_linked_pages: bool,
    /// Whether links that lead to the target without the rule count as links to it.
    pub counts_other_links: bool,
    /// Whether a page may lead back to one that links to it.
    pub links_back: bool,
}

impl Default for Pace {
    fn default() -> Self {
        Self {
            per_page: 1,
            per_phrase: 1,
            per_sentence: None,
            in_total: None,
            share: Share::ALL,
            skips_linked_pages: true,
            counts_other_links: true,
            links_back: true,
        }
    }
}

/// What holds for all rules together. The limits of the site hold beside them.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct RuleLimits {
    /// Links of rules on a page: one for so many words, and one on a short page.
    pub words_per_link: usize,
    /// Links to one target on a page.
    pub per_target: usize,
    /// Links on the same words on a page.
    pub per_anchor: usize,
    pub per_sentence: usize,
    /// Which share of the places becomes links, whatever the rule.
    pub share: Share,
    /// Whether a page that passes does not lead its reader back to the page that he just came from.
    pub heeds_referrer: bool,
}

impl Default for RuleLimits {
    fn default() -> Self {
        Self {
            words_per_link: 80,
            per_target: 1,
            per_anchor: 2,
            per_sentence: 1,
            share: Share::ALL,
            heeds_referrer: false,
        }
    }
}

impl RuleLimits {
    /// Links of rules on a page of so many words.
    pub fn of_page(&self, words: usize) -> usize {
        (words / self.words_per_link.max(1)).max(1)
    }
}

/// A part of all places, 0 to 1.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize)]
#[serde(try_from = "f64", into = "f64")]
pub struct Share(f64);

/// It is no part of a whole.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
#[error("a share is from 0 to 1")]
pub struct NoShare;

impl TryFrom<f64> for Share {
    type Error = NoShare;

    fn try_from(part: f64) -> Result<Self, NoShare> {
        Self::new(part).ok_or(NoShare)
    }
}

impl From<Share> for f64 {
    fn from(share: Share) -> Self {
        share.0
    }
}

impl Share {
    /// Every place.
    pub const ALL: Self = Self(1.0);

    /// `None` when it is no part.
    pub fn new(part: f64) -> Option<Self> {
        (0.0..=1.0).contains(&part).then_some(Self(part))
    }

    /// From 0 to 1.
    pub const fn part(self) -> f64 {
        self.0
    }
}
