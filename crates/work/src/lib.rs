//! Long work, on PostgreSQL's job queue: ordered by the server, done by any worker.

mod doubles;
pub mod folders;
mod hand_over;
mod keeper;
mod learn_habits;
mod order;
mod place_anew;
mod read_again;
mod read_folder;
mod read_page;
mod read_site;
mod release;
pub mod secrets;
mod sending;
mod sight;
mod take_back;
mod take_off;
mod target_check;
pub mod uploads;
pub mod words;
mod work;

pub use order::{
    Job, OrderError, order_going_on, order_reading, order_reading_to_go_on, order_release, order_taking_back,
    order_taking_off,
};
pub use work::{Worker, set_up};

use std::path::Path;

use strelm_live::LiveError;
use strelm_sources::client::Client;
use strelm_sources::editing::Editor;
use strelm_sources::folder::{Folder, FolderError};
use strelm_sources::micropub::Micropub;
use strelm_sources::pace::Patience;
use strelm_store::site::SiteSource;
use strelm_store::{PgPool, SiteId, StoreError, site};
use thiserror::Error;
use url::Url;

use crate::folders::{FolderRefusal, Folders};
use crate::secrets::Secrets;

/// What every job needs.
#[derive(Clone)]
pub struct Tools {
    pub pool: PgPool,
    pub client: Client,
    pub secrets: Secrets,
    pub folders: Folders,
    pub patience: Patience,
}

/// Why a job ends without having done its work.
#[derive(Debug, Error)]
pub enum JobError {
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error("the site was deleted meanwhile")]
    NoSite,
    #[error("the token of the editing interface cannot be read: {0}")]
    Token(#[from] std::io::Error),
    #[error(transparent)]
    Folder(#[from] FolderError),
    #[error(transparent)]
    FolderRefused(#[from] FolderRefusal),
    #[error("another worker took the work over")]
    LockLost,
    #[error("a part of the work broke off: {0}")]
    BrokeOff(String),
    #[error(transparent)]
    Live(#[from] LiveError),
}

impl Tools {
    /// The site and, where it is set up, the way to its pages' sources. Whether they may be changed, the site tells.
    async fn site(&self, id: SiteId) -> Result<(site::Site, Option<Editor>), JobError> {
        let site = site::get(&self.pool, id).await?.ok_or(JobError::NoSite)?;
        let editor = match &site.settings.source {
            SiteSource::Folder { path, .. } => {
                let real = self.folders.allowed(Path::new(path))?;
                let root = site.link_form.as_ref().map(|form| form.root.clone()).unwrap_or_default();
                Some(Editor::Folder(Folder::open(&real, site.entry.clone())?.with_link_root(root)))
            }
            SiteSource::Web { micropub } => {
                let endpoint = micropub.as_deref().and_then(|text| Url::parse(text).ok());
                let token = endpoint.as_ref().map(|endpoint| self.secrets.token(id, endpoint)).transpose()?.flatten();
                endpoint
                    .zip(token)
                    .map(|(endpoint, token)| Editor::Micropub(Micropub::new(self.client.clone(), endpoint, token)))
            }
        };
        Ok((site, editor))
    }
}
