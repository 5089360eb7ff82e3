//! Pages as they were shown last: each version of a page with its marks is made harmless once, however often and by how
//! many it is asked for.

use std::sync::Arc;

use moka::future::Cache;
use strelm_core::document::{Document, Region};
use strelm_core::site::{Address, PageId};

use super::shown::{Mark, Marked, Shown, shown};
use crate::api::{ApiError, State};

/// Bytes of HTML that are kept.
const MOST_BYTES: u64 = 64 << 20;

/// Pages as they are shown, kept while they are likely to be asked for again.
#[derive(Clone)]
pub struct KeptShown(Cache<String, Arc<Shown>>);

impl Default for KeptShown {
    fn default() -> Self {
        let weight = |_: &String, shown: &Arc<Shown>| u32::try_from(shown.html.len()).unwrap_or(u32::MAX);
        Self(Cache::builder().max_capacity(MOST_BYTES).weigher(weight).build())
    }
}

/// A version of a page and what is to be marked on it.
pub struct ToShow {
    pub site: i32,
    pub page: PageId,
    pub address: Address,
    pub document: Arc<Document>,
    pub marks: Vec<Mark>,
}

impl ToShow {
    fn key(&self) -> String {
        let mut key = format!("{} {} {}", self.site, self.page.0, self.document.hash());
        // What is boilerplate is found anew by readings that do not change the page.
        let own = self.document.blocks().iter().filter(|block| block.region == Region::Content).count();
        key.push_str(&format!(" {own}"));
        for mark in &self.marks {
            let place = match mark.place {
                Marked::Words(words) => format!("{}-{}", words.start, words.end),
                Marked::Picture(ordinal) => format!("picture {ordinal}"),
            };
            key.push_str(&format!(" {} {} {place}", mark.what, mark.number));
        }
        key
    }
}

impl State {
    /// A page as it is shown, from what is kept or made aside; of those who ask for the same at once one makes it.
    pub async fn shown(&self, wish: ToShow) -> Result<Arc<Shown>, ApiError> {
        let key = wish.key();
        let make = async {
            let made = self.aside(move || shown(&wish.document, &wish.address, wish.site, &wish.marks));
            made.await.map(Arc::new)
        };
        let kept = self.kept_shown.0.try_get_with(key, make).await;
        kept.map_err(|error| ApiError::Internal(anyhow::anyhow!("a page cannot be shown: {error}")))
    }
}
