//! A page's source, and why it cannot be had or changed.

use std::time::Duration;

use reqwest::StatusCode;
use strelm_core::document::Format;
use thiserror::Error;

use crate::client::Blocked;

/// A page's content as its author wrote it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PageSource {
    pub text: String,
    pub format: Format,
    /// How the site names this version.
    pub version: Option<String>,
}

/// Why a page's source cannot be had or changed.
#[derive(Debug, Error)]
pub enum SourceError {
    #[error("the editing interface cannot be reached: {0}")]
    Unreachable(String),
    #[error("the editing interface is busy or broken at the moment ({status})")]
    Busy { status: StatusCode, wait: Option<Duration> },
    #[error(transparent)]
    Blocked(#[from] Blocked),
    #[error("the editing interface refuses the token: give Strelm a new one in Setup")]
    Unauthorised,
    #[error("the page is not there, or cannot be edited")]
    NotEditable,
    #[error("the page was changed on the site in this very moment")]
    ChangedMeanwhile,
    #[error("the editing interface answers with status {status}: {description}")]
    Refused { status: StatusCode, description: String },
    #[error("the editing interface gives an answer that Micropub does not know: {0}")]
    Unintelligible(String),
    #[error("the file cannot be written: {0}")]
    File(String),
}

impl SourceError {
    /// Whether it has nothing to do with the page, so that other pages will not fare better for now.
    pub const fn concerns_the_whole_site(&self) -> bool {
        matches!(self, Self::Unreachable(_) | Self::Busy { .. } | Self::Blocked(_) | Self::Unauthorised)
    }

    /// Whether trying again after a moment may help.
    pub const fn may_pass(&self) -> bool {
        matches!(self, Self::Unreachable(_) | Self::Busy { .. })
    }
}
