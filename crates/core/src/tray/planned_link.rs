//! A change of the links of a page, before anybody made it.

use crate::document::{AlsoIn, ContentHash, LinkSays, LinkTarget, Quote, QuotedSentence, TextSpan, Wording};
use crate::ids::{PageId, RuleId};
use crate::site::{Address, Target};

/// What is done to words of a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Change {
    /// A link is put on them.
    Put,
    /// Their link leads elsewhere.
    Retarget(OldLink),
    /// Their link is taken off.
    Unlink(OldLink),
    /// They are a sentence, in whose place the editor's own wording comes, with a link on some of it.
    Reword(QuotedSentence),
    /// A link is put on a picture, which is known again by how it is written. Its words are empty, and its place is that
    /// of the text before it.
    PutOnPicture(ContentHash),
    /// Their link leads where it did and says other things.
    Attributes(OldLink),
}

/// A link that is on the page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OldLink {
    /// As it is written.
    pub href: String,
    /// Where that leads.
    pub to: Address,
    pub fragment: Option<String>,
}

impl Change {
    /// The link that is there until the change is made.
    pub const fn old(&self) -> Option<&OldLink> {
        match self {
            Self::Put | Self::Reword(_) | Self::PutOnPicture(_) => None,
            Self::Retarget(old) | Self::Unlink(old) | Self::Attributes(old) => Some(old),
        }
    }

    /// The link that the page has no more once the change is made: what a change displaces is counted and listed with
    /// its page no longer from when it is planned.
    pub const fn displaced(&self) -> Option<&OldLink> {
        match self {
            Self::Retarget(old) | Self::Unlink(old) => Some(old),
            Self::Put | Self::Reword(_) | Self::PutOnPicture(_) | Self::Attributes(_) => None,
        }
    }

    /// Whether a link comes to the page that was not there.
    pub const fn brings_link(&self) -> bool {
        matches!(self, Self::Put | Self::Reword(_) | Self::PutOnPicture(_))
    }
}

/// A change of the links of a page.
#[derive(Debug, Clone, PartialEq)]
pub struct PlannedLink {
    pub change: Change,
    pub source: PageId,
    /// Where the words lead afterwards; `None` when they lead nowhere, or where they did.
    pub target: Option<Target>,
    /// In the text of the version of the source with `source_hash`; empty for a picture.
    pub words: TextSpan,
    pub source_hash: ContentHash,
    /// The sentence as it is; of a picture what it says to whoever does not see it.
    pub said: QuotedSentence,
    /// As it is written.
    pub href: String,
    /// What else the link says.
    pub says: Vec<LinkSays>,
    /// `None` for words that the editor chose.
    pub fit: Option<f64>,
    /// The rule that makes it, if one does.
    pub by_rule: Option<ByRule>,
}

/// A rule that makes a link, and where else than in running text it does so.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ByRule {
    pub rule: RuleId,
    pub also_in: AlsoIn,
}

impl PlannedLink {
    /// The words that carry the link once the change is made.
    pub fn shown_anchor(&self) -> &str {
        match &self.change {
            Change::Reword(says) => &says.anchor,
            _ => &self.said.anchor,
        }
    }

    /// The sentence as it is on the page before the change.
    pub fn quote(&self) -> Quote<'_> {
        self.said.as_quote()
    }

    /// The sentence as it is after the change.
    pub fn new_quote(&self) -> Quote<'_> {
        match &self.change {
            Change::Reword(says) => says.as_quote(),
            _ => self.quote(),
        }
    }

    /// The page of the site to which the words lead afterwards.
    pub fn target_page(&self) -> Option<PageId> {
        self.target.as_ref().and_then(Target::page)
    }

    /// The link that comes to the page and was not there: where it leads.
    pub fn brings(&self) -> Option<&Target> {
        self.target.as_ref().filter(|_| self.change.brings_link())
    }

    /// Where else than in running text its words may stand.
    pub fn also_in(&self) -> AlsoIn {
        self.by_rule.map(|by| by.also_in).unwrap_or_default()
    }

    /// Where it leads and what it says, as it is written into the page.
    pub(super) fn as_written(&self) -> LinkTarget {
        LinkTarget { href: self.href.clone(), says: self.says.clone() }
    }

    /// An editor's own sentence as it is written into the page.
    pub(super) fn wording(&self, says: &QuotedSentence) -> Vec<Wording> {
        let text = |text: &str| (!text.is_empty()).then(|| Wording::Text(text.to_owned()));
        let link = Wording::Link(says.anchor.clone(), self.as_written());
        [text(&says.before), Some(link), text(&says.after)].into_iter().flatten().collect()
    }
}
