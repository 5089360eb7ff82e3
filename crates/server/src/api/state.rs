//! What every operation works with.

use std::sync::Arc;

use strelm_core::site::{PageFacts, PageId};
use strelm_sources::client::Client;
use strelm_store::{PgPool, SiteId};
use tokio::sync::Semaphore;

use super::ApiError;
use super::events::Events;
use super::pages::kept_shown::KeptShown;
use strelm_live::{LiveError, LiveSite, LiveSites, Model};
use strelm_work::folders::Folders;
use strelm_work::secrets::Secrets;
use strelm_work::uploads::Uploads;

/// What all requests share.
#[derive(Clone)]
pub struct State {
    pub pool: PgPool,
    pub client: Client,
    pub live: Arc<LiveSites>,
    pub events: Events,
    pub secrets: Secrets,
    pub folders: Folders,
    pub uploads: Uploads,
    pub kept_shown: KeptShown,
    /// For what takes long.
    pub turns: Arc<Semaphore>,
    /// For plans, which take as long as an editor waits.
    pub plans: Arc<Semaphore>,
}

impl State {
    /// Does what takes long for a large page on a thread of its own, of which so many are at work at once as there are
    /// cores: whoever asks for anything else is answered meanwhile.
    pub async fn aside<T: Send + 'static>(&self, work: impl FnOnce() -> T + Send + 'static) -> Result<T, ApiError> {
        let _turn = self.turns.acquire().await.map_err(anyhow::Error::from)?;
        Ok(tokio::task::spawn_blocking(work).await.map_err(anyhow::Error::from)?)
    }

    /// Whether there is such a site: for whoever needs no model of it, which may take long to be ready.
    pub async fn known(&self, site: i32) -> Result<(), ApiError> {
        let known = strelm_store::site::get(&self.pool, SiteId(site)).await?;
        known.map(|_| ()).ok_or(LiveError::NoSite.into())
    }

    /// The model of a site, as fresh as the database.
    pub async fn site(&self, site: i32) -> Result<Arc<LiveSite>, ApiError> {
        Ok(self.live.get(&self.pool, SiteId(site)).await?)
    }

    /// The same for what openings are needed for: the texts of a large site take longer to be in memory than its links.
    ///
    /// # Errors
    /// [`ApiError::NotReady`] when they are still on their way.
    pub async fn whole_site(&self, site: i32) -> Result<Arc<LiveSite>, ApiError> {
        let live = self.site(site).await?;
        match live.ask(Model::texts_to_come).await? {
            Some(texts) => Err(ApiError::NotReady(format!(
                "The texts of this site are on their way into memory, {texts} of them to come. Try again in a moment."
            ))),
            None => Ok(live),
        }
    }
}

/// The page with a number, or the refusal that says that there is none.
pub fn page_of(model: &Model, number: u32) -> Result<&PageFacts, ApiError> {
    if model.gone.contains_key(&PageId(number)) {
        return Err(ApiError::NotFound("This page is no longer on the site: the last reading did not find it."));
    }
    model.site.page(PageId(number)).ok_or(ApiError::NotFound("There is no such page. Look for it in Pages."))
}
