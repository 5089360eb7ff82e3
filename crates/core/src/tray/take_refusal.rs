//! Why a link is not taken.

use thiserror::Error;

use super::repair::RepairRefusal;
use crate::document::Refusal;
use crate::ids::PageId;
use crate::limits::Breach;

/// A longer sentence is not written in the place of another.
pub(super) const LONGEST_WORDING: usize = 2000;

/// Why a link is not taken, in words for the editor.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum TakeRefusal {
    #[error("This page is not on the site any more. Look for it in Pages.")]
    NoPage(PageId),
    #[error("There is no such planned page.")]
    NoPlannedPage,
    #[error("The page has no place called #{0}. Choose another place, or the page as a whole.")]
    NoPlace(String),
    #[error("The page was read anew meanwhile. Look at its openings once more.")]
    ReadAnew,
    #[error("A link between these two pages is in the tray already: somebody was a moment faster.")]
    Already,
    #[error("{}", RepairRefusal::NotEditable)]
    NotEditable,
    #[error("This opening is gone: its words were used, or it was passed or taken meanwhile.")]
    OpeningGone,
    #[error("A page does not lead to itself. Choose another target.")]
    ToItself,
    #[error("The text of this page leads there already.")]
    LeadsThere,
    #[error("These words carry another link in the tray. Drop that one first, or choose other words.")]
    WordsUsed,
    #[error("These words are not on the page any more. Look at it once more.")]
    WordsGone,
    #[error("These words cannot carry a link: {0}.")]
    Words(Refusal),
    #[error("This picture is not on the page any more. Look at it once more.")]
    PictureGone,
    #[error("This picture carries another link in the tray. Drop that one first.")]
    PictureUsed,
    #[error("This picture cannot carry a link: {0}.")]
    Picture(Refusal),
    #[error("This sentence cannot be reworded from here: {0}.")]
    Wording(Refusal),
    #[error("This would be too much for readers: {0}.")]
    TooMuch(Breach),
    #[error("Mark the words that are to carry the link.")]
    NothingMarked,
    #[error("A sentence has at most {LONGEST_WORDING} letters here.")]
    TooLong,
    #[error("The wording is what it was. Use “other words” to put the link on other words.")]
    SameWording,
}

impl TakeRefusal {
    /// Whether the wish itself cannot be carried out, whatever the state of the site.
    pub const fn is_about_the_wish(&self) -> bool {
        matches!(self, Self::NothingMarked | Self::TooLong | Self::SameWording)
    }
}
