//! What of a folder cannot be read, and why: it stays as it was known.

use std::path::{Path, PathBuf};

use strelm_core::site::Address;
use thiserror::Error;

/// A file larger than this is not read.
pub(crate) const LARGEST: u64 = 32 * 1024 * 1024;

/// Why a folder, or a file in it, cannot be read.
#[derive(Debug, Error)]
pub enum FolderError {
    #[error("{0} is not a folder")]
    NotAFolder(PathBuf),
    #[error("a part of the folder cannot be read: {0}")]
    Walk(#[from] walkdir::Error),
    #[error("{path} cannot be read: {error}")]
    File { path: PathBuf, error: std::io::Error },
    #[error("{} is larger than {} MB", .0.display(), LARGEST >> 20)]
    TooLarge(PathBuf),
    #[error("{path} is a link that leads nowhere: {error}")]
    Link { path: PathBuf, error: std::io::Error },
    #[error("the file that says where the pages belong cannot be read: {0}")]
    Plan(std::io::Error),
}

impl FolderError {
    /// What it is about, if that is known.
    pub(crate) fn path(&self) -> Option<&Path> {
        match self {
            Self::NotAFolder(path) | Self::File { path, .. } | Self::TooLarge(path) | Self::Link { path, .. } => {
                Some(path)
            }
            Self::Walk(error) => error.path(),
            Self::Plan(_) => None,
        }
    }

    /// The reason alone, for whoever sees the file's name beside it.
    pub(crate) fn reason(&self) -> String {
        match self {
            Self::File { error, .. } => format!("it cannot be read: {error}"),
            Self::TooLarge(_) => format!("it is larger than {} MB, which no page is", LARGEST >> 20),
            Self::Link { error, .. } => format!("it is a link that leads nowhere: {error}"),
            Self::Walk(error) => match error.io_error() {
                Some(error) => format!("it cannot be read: {error}"),
                None => error.to_string(),
            },
            other => other.to_string(),
        }
    }
}

/// A part of a folder that is there and was not read: nothing is known of it, least of all that it is gone.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unread {
    /// A page, or all that is below it when it is a folder.
    pub address: Address,
    pub(crate) is_folder: bool,
    pub why: String,
}

impl Unread {
    pub(crate) fn page(address: Address, why: String) -> Self {
        Self { address, is_folder: false, why }
    }

    /// Whether an address is of what could not be read.
    pub fn covers(&self, address: &Address) -> bool {
        let below = || address.as_url().path().starts_with(self.address.as_url().path());
        *address == self.address || (self.is_folder && below())
    }
}
