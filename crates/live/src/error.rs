//! What can go wrong with a site in memory.

use std::sync::Arc;

use strelm_store::StoreError;
use thiserror::Error;

/// Why a model cannot be asked.
#[derive(Debug, Error)]
pub enum LiveError {
    #[error("there is no site with this number")]
    NoSite,
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error(transparent)]
    Load(Arc<LiveError>),
    #[error("work on the site in memory broke off")]
    BrokenOff,
    /// A change broke off half way.
    #[error("the site in memory was torn while it changed, and is loaded anew")]
    Torn,
}
