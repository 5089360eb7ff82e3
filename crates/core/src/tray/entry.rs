//! A planned link on its way through the tray.

use chrono::{DateTime, Utc};

use super::planned_link::{Change, PlannedLink};
use crate::document::{Document, Sighting};
use crate::ids::ChangeId;

/// Where a planned link is on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TrayState {
    Tray,
    Releasing,
    /// Somebody has it on a list, and it was not seen on the site yet.
    HandedOver,
    Out,
    Dropped,
    TakenBack,
}

impl TrayState {
    /// All states, in the order of a link's life.
    pub const ALL: [Self; 6] =
        [Self::Tray, Self::Releasing, Self::HandedOver, Self::Out, Self::Dropped, Self::TakenBack];

    /// Its name in the database.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Tray => "tray",
            Self::Releasing => "releasing",
            Self::HandedOver => "handed over",
            Self::Out => "out",
            Self::Dropped => "dropped",
            Self::TakenBack => "taken back",
        }
    }

    /// Whether it waits in the tray, or is on its way out of it.
    pub const fn is_in_tray(self) -> bool {
        matches!(self, Self::Tray | Self::Releasing)
    }

    /// Whether the link is taken but not yet on the site.
    pub const fn is_planned(self) -> bool {
        matches!(self, Self::Tray | Self::Releasing | Self::HandedOver)
    }
}

/// A planned link with its number and what became of it so far.
#[derive(Debug, Clone)]
pub struct TrayEntry {
    pub id: ChangeId,
    pub link: PlannedLink,
    pub state: TrayState,
    /// What was found when its page was last looked at, of a link that was handed over.
    pub sighting: Option<Sighting>,
    /// What is to be said of it: why it was held back, or where it cannot stand any more.
    pub message: Option<String>,
    pub taken_at: DateTime<Utc>,
}

impl TrayEntry {
    /// The picture on which the link is to come, by its ordinal; `None` for links on words. O(pictures).
    pub fn picture(&self, document: &Document) -> Option<usize> {
        match self.link.change {
            Change::PutOnPicture(written) => document.find_picture(written, self.link.words.start),
            _ => None,
        }
    }
}
