//! Where edits go: one way in for everything that can change a page.

use strelm_core::site::Address;

use crate::folder::Folder;
use crate::micropub::Micropub;
pub use crate::page_source::{PageSource, SourceError};

/// A way to change the pages of a site.
#[derive(Clone)]
pub enum Editor {
    Micropub(Micropub),
    Folder(Folder),
}

impl Editor {
    /// # Errors
    /// [`SourceError`]; [`SourceError::NotEditable`] when there is no source of this page.
    pub async fn source(&self, page: &Address) -> Result<PageSource, SourceError> {
        match self {
            Self::Micropub(micropub) => micropub.source(page).await,
            Self::Folder(folder) => in_background(folder, page, |folder, page| folder.source(&page)).await,
        }
    }

    /// Replaces a page's content, if it is still `current`.
    ///
    /// # Errors
    /// [`SourceError`]; the page is then as it was, unless the answer was lost on its way.
    pub async fn replace(&self, page: &Address, current: &PageSource, with: &str) -> Result<(), SourceError> {
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
    work: impl FnOnce(Folder, Address) -> Result<T, SourceError> + Send + 'static,
) -> Result<T, SourceError> {
    let (folder, page) = (folder.clone(), page.clone());
    let done = tokio::task::spawn_blocking(move || work(folder, page)).await;
    done.unwrap_or_else(|error| Err(SourceError::File(error.to_string())))
}
