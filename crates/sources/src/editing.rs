//! Where edits go: one way in for everything that can change a page.

use std::time::Duration;

use reqwest::StatusCode;
use strelm_core::document::Format;
use strelm_core::site::Address;
use thiserror::Error;

use crate::client::Blocked;
use crate::folder::Folder;
use crate::micropub::Micropub;

/// A page's content as its author wrote it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PageSource {
    pub text: String,
    pub format: Format,
    /// How the site names this version.
    pub version: Option<String>,
}

#[derive(Debug, Error)]
pub enum EditError {
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

impl EditError {
    /// Whether it has nothing to do with the page, so that other pages will not fare better for now.
    pub const fn concerns_the_whole_site(&self) -> bool {
        matches!(self, Self::Unreachable(_) | Self::Busy { .. } | Self::Blocked(_) | Self::Unauthorised)
    }

    /// Whether trying again after a moment may help.
    pub const fn may_pass(&self) -> bool {
        matches!(self, Self::Unreachable(_) | Self::Busy { .. })
    }
}

/// A way to change the pages of a site.
#[derive(Clone)]
pub enum Editor {
    Micropub(Micropub),
    Folder(Folder),
}

impl Editor {
    /// # Errors
    /// [`EditError`]; [`EditError::NotEditable`] when there is no source of this page.
    pub async fn source(&self, page: &Address) -> Result<PageSource, EditError> {
        match self {
            Self::Micropub(micropub) => micropub.source(page).await,
            Self::Folder(folder) => in_background(folder, page, |folder, page| folder.source(&page)).await,
        }
    }

    /// Replaces a page's content, if it is still `current`.
    ///
    /// # Errors
    /// [`EditError`]; the page is then as it was, unless the answer was lost on its way.
    pub async fn replace(&self, page: &Address, current: &PageSource, with: &str) -> Result<(), EditError> {
        match self {
            Self::Micropub(micropub) => micropub.replace_content(page, with, current.version.as_deref()).await,
            Self::Folder(folder) => {
                let (current, with) = (current.clone(), with.to_owned());
                in_background(folder, page, move |folder, page| folder.replace(&page, &current, &with)).await
            }
        }
    }
}

/// Files are read and written on a thread that may wait.
async fn in_background<T: Send + 'static>(
    folder: &Folder,
    page: &Address,
    work: impl FnOnce(Folder, Address) -> Result<T, EditError> + Send + 'static,
) -> Result<T, EditError> {
    let (folder, page) = (folder.clone(), page.clone());
    let done = tokio::task::spawn_blocking(move || work(folder, page)).await;
    done.unwrap_or_else(|error| Err(EditError::File(error.to_string())))
}
