//! What is known of a reading.

use chrono::{DateTime, Utc};
use strelm_core::site::Address;

use crate::StoreError;

/// The number of a reading.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct ReadingId(pub i64);

/// How far a reading is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReadingState {
    Waiting,
    Running,
    /// Somebody asked it to stop; what is on its way is still kept.
    Stopping,
    Stopped,
    /// It would take off too much of the site, and waits for somebody to say whether it may.
    Asking,
    Done,
    Failed,
}

impl ReadingState {
    /// All states, in their order.
    pub const ALL: [Self; 7] =
        [Self::Waiting, Self::Running, Self::Stopping, Self::Stopped, Self::Asking, Self::Done, Self::Failed];

    /// Its name in the database.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Waiting => "waiting",
            Self::Running => "running",
            Self::Stopping => "stopping",
            Self::Stopped => "stopped",
            Self::Asking => "asking",
            Self::Done => "done",
            Self::Failed => "failed",
        }
    }

    pub(super) fn parse(word: &str) -> Result<Self, StoreError> {
        let found = Self::ALL.into_iter().find(|state| state.as_str() == word);
        found.ok_or_else(|| StoreError::Unknown { what: "a state of a reading", value: word.to_owned() })
    }
}

/// What became of an address.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Outcome {
    New,
    Changed,
    Unchanged,
    File,
    Redirect,
    /// A page that was there before and now sends on.
    Moved,
    /// A page that was there before and is no longer.
    Vanished,
    Failed,
    /// Not looked at because the site asks for it, or because it is a draft.
    LeftOut,
}

impl Outcome {
    /// All kinds.
    pub const ALL: [Self; 9] = [
        Self::New,
        Self::Changed,
        Self::Unchanged,
        Self::File,
        Self::Redirect,
        Self::Moved,
        Self::Vanished,
        Self::Failed,
        Self::LeftOut,
    ];

    /// Its name in the database.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::New => "new",
            Self::Changed => "changed",
            Self::Unchanged => "unchanged",
            Self::File => "file",
            Self::Redirect => "redirect",
            Self::Moved => "moved",
            Self::Vanished => "vanished",
            Self::Failed => "failed",
            Self::LeftOut => "left out",
        }
    }
}

/// How far a reading has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Progress {
    /// Addresses known so far, read or not.
    pub known: i32,
    pub pages: i32,
    pub files: i32,
    pub failures: i32,
    /// Addresses that only send on, or were left out.
    pub others: i32,
    /// Of the pages: new ones, and those that changed since the reading before.
    pub fresh: i32,
    pub changed: i32,
    pub vanished: i32,
    pub moved: i32,
    /// Of the failures: what is there, as far as is known, and could not be read.
    pub unread: i32,
}

impl Progress {
    /// Addresses that were dealt with.
    pub fn done(&self) -> i32 {
        self.pages + self.files + self.failures + self.others
    }
}

/// A reading of a site: how far it is, and what it found.
#[derive(Debug, Clone)]
pub struct Reading {
    pub id: ReadingId,
    pub state: ReadingState,
    pub progress: Progress,
    /// Why it failed, or what to know about it.
    pub message: Option<String>,
    pub created_at: DateTime<Utc>,
    pub finished_at: Option<DateTime<Utc>>,
    /// When it last began to run, and how many addresses were dealt with then.
    pub run_at: Option<DateTime<Utc>>,
    pub run_done: i32,
}

/// An address of a reading with what became of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReadAddress {
    pub address: Address,
    pub outcome: Outcome,
    pub note: Option<String>,
}
