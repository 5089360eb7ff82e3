//! The models of this process: loaded when first asked for, then following the journal.

use std::collections::HashMap;
use std::sync::{Arc, PoisonError, RwLock, RwLockReadGuard};

use strelm_core::site::Address;
use strelm_store::{PgPool, SiteId, StoreError, journal, site};
use thiserror::Error;
use tokio::sync::Mutex;

use super::follow::Delta;
use super::model::Model;

#[derive(Debug, Error)]
pub enum LiveError {
    #[error("there is no site with this number")]
    NoSite,
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error("the entry page of the site is not an address")]
    BadEntry,
}

/// One site's model. Readers never wait for the database: what changed is looked up first and put in afterwards.
pub struct LiveSite {
    id: SiteId,
    model: RwLock<Model>,
    /// Held by the one who follows the journal, so that entries are put in in order.
    following: Mutex<()>,
}

impl LiveSite {
    pub fn read(&self) -> RwLockReadGuard<'_, Model> {
        self.model.read().unwrap_or_else(PoisonError::into_inner)
    }

    /// Brings the model to the end of the journal. Cheap when it is there already.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn catch_up(&self, pool: &PgPool) -> Result<(), LiveError> {
        let _turn = self.following.lock().await;
        let from = self.read().seq;
        let end = journal::end(pool, self.id).await?.ok_or(LiveError::NoSite)?;
        if end <= from {
            return Ok(());
        }
        let entries = journal::after(pool, self.id, from).await?;
        let delta = Delta::of_entries(pool, self.id, &entries, from).await?;
        delta.apply(&mut self.model.write().unwrap_or_else(PoisonError::into_inner));
        Ok(())
    }
}

#[derive(Default)]
pub struct LiveSites {
    sites: RwLock<HashMap<SiteId, Arc<LiveSite>>>,
    loading: Mutex<()>,
}

impl LiveSites {
    /// The model of a site, at the end of the journal; loaded when it is not in memory yet.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn get(&self, pool: &PgPool, id: SiteId) -> Result<Arc<LiveSite>, LiveError> {
        if let Some(live) = self.loaded(id) {
            live.catch_up(pool).await?;
            return Ok(live);
        }
        let _turn = self.loading.lock().await;
        if let Some(live) = self.loaded(id) {
            return Ok(live);
        }
        let site = site::get(pool, id).await?.ok_or(LiveError::NoSite)?;
        let entry = Address::parse(&site.entry).map_err(|_| LiveError::BadEntry)?;
        // The end first: entries that come while the rest is loaded are read again, which does no harm.
        let seq = journal::end(pool, id).await?.ok_or(LiveError::NoSite)?;
        let mut model = Model::new(entry);
        Delta::everything(pool, id, seq).await?.apply(&mut model);
        let live = Arc::new(LiveSite { id, model: RwLock::new(model), following: Mutex::new(()) });
        self.sites.write().unwrap_or_else(PoisonError::into_inner).insert(id, Arc::clone(&live));
        live.catch_up(pool).await?;
        Ok(live)
    }

    /// The model of a site if it is in memory, as it is.
    pub fn loaded(&self, id: SiteId) -> Option<Arc<LiveSite>> {
        self.sites.read().unwrap_or_else(PoisonError::into_inner).get(&id).cloned()
    }
}
