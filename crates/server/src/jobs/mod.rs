//! Long work, on PostgreSQL's job queue: ordered by the server, done by any worker.

mod order;
mod read_page;
mod read_site;
mod release;
mod take_back;
mod work;

pub use order::{Job, OrderError, order_reading, order_release, order_taking_back};
pub use work::{Worker, set_up};

use strelm_sources::client::Client;
use strelm_sources::micropub::Micropub;
use strelm_store::{PgPool, SiteId, StoreError, site};
use thiserror::Error;
use url::Url;

use crate::secrets::Secrets;

/// What every job needs.
#[derive(Clone)]
pub struct Tools {
    pub pool: PgPool,
    pub client: Client,
    pub secrets: Secrets,
}

#[derive(Debug, Error)]
pub enum JobError {
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error("the site was deleted meanwhile")]
    NoSite,
    #[error("the entry page of the site is not an address")]
    BadEntry,
    #[error("the token of the editing interface cannot be read: {0}")]
    Token(#[from] std::io::Error),
}

impl Tools {
    /// The site and, where it is set up, its editing interface.
    async fn site(&self, id: SiteId) -> Result<(site::Site, Option<Micropub>), JobError> {
        let site = site::get(&self.pool, id).await?.ok_or(JobError::NoSite)?;
        let endpoint = site.micropub.as_deref().and_then(|text| Url::parse(text).ok());
        let micropub = endpoint
            .zip(self.secrets.token(id)?)
            .map(|(endpoint, token)| Micropub::new(self.client.clone(), endpoint, token));
        Ok((site, micropub))
    }
}
