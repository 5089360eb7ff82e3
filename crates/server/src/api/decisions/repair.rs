//! Mending links that are on a page: what is asked of the database, and what is mended on each page.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use strelm_core::document::Document;
use strelm_core::site::{Address, PageId, Target};
use strelm_core::tray::{LeftOut, PlannedLink, RepairRefusal, StoredHrefs};
use strelm_live::{LiveSite, Model};
use strelm_store::page::{self, PageText};
use strelm_store::{SiteId, site};

use crate::api::faults::links::{MOST_PAGES, Stored, stored_links};
use crate::api::state::page_of;
use crate::api::{ApiError, State};

/// Links to one address, on one page or on many.
pub struct RepairOrder<'r> {
    /// Pages with the versions that the editor saw.
    pub pages: Vec<(u32, &'r str)>,
    pub address: &'r str,
    pub fragment: Option<&'r str>,
    /// `None` takes them off.
    pub target: Option<u32>,
}

/// What all pages of a repair have in common.
struct Common {
    to: Address,
    target: Option<Target>,
    /// What is written for a link on each page; nothing where it is taken off.
    hrefs: HashMap<PageId, String>,
    /// Places that the new page has, too: a link goes on to the same place.
    kept: HashSet<String>,
    stored: Stored,
}

impl From<RepairRefusal> for ApiError {
    fn from(refusal: RepairRefusal) -> Self {
        Self::Conflict(refusal.to_string())
    }
}

impl RepairOrder<'_> {
    /// What goes into the tray: each such link in the content of the pages, and what could not be mended and why. O(bytes
    /// of the pages), and a handful of queries.
    ///
    /// # Errors
    /// Of one page, why nothing can be mended.
    pub async fn links(
        &self,
        state: &State,
        site: SiteId,
        live: &Arc<LiveSite>,
    ) -> Result<(Vec<PlannedLink>, Vec<LeftOut>), ApiError> {
        if self.pages.is_empty() || self.pages.len() > MOST_PAGES {
            return Err(ApiError::Unusable(format!("Mend 1 to {MOST_PAGES} pages at once.")));
        }
        let sources: Vec<_> = self.pages.iter().map(|(source, _)| PageId(*source)).collect();
        let common = self.common(state, site, live, &sources).await?;
        let texts = page::texts(&state.pool, site, Some(&sources)).await?;
        let versions: HashMap<PageId, String> =
            self.pages.iter().map(|(source, version)| (PageId(*source), (*version).to_owned())).collect();
        let mended = move || -> Vec<_> {
            let mend = |text: PageText| {
                let page = text.page;
                let version = versions.get(&page).map_or("", String::as_str);
                common.on_page(text, version).map_err(|why| (page, why))
            };
            texts.into_iter().map(mend).collect()
        };
        let mut links = Vec::new();
        let mut refused = Vec::new();
        for mended in state.aside(mended).await? {
            match mended {
                Ok(found) => links.extend(found),
                Err((_, why)) if self.pages.len() == 1 => return Err(why.into()),
                Err((page, why)) => refused.push(LeftOut {
                    source: page.0,
                    target: self.target,
                    words: self.address.to_owned(),
                    why: why.to_string(),
                }),
            }
        }
        if links.is_empty() {
            let why =
                refused.first().map_or("These links are not on their pages any more.", |refused| refused.why.as_str());
            return Err(ApiError::Conflict(why.to_owned()));
        }
        Ok((links, refused))
    }

    async fn common(
        &self,
        state: &State,
        site: SiteId,
        live: &Arc<LiveSite>,
        sources: &[PageId],
    ) -> Result<Common, ApiError> {
        let to = Address::parse(self.address).map_err(|error| ApiError::Unusable(error.to_string()))?;
        // What a link leads to was worked out when its page was read; here it is known again by what is written.
        let links = page::links(&state.pool, site, Some(sources)).await?;
        let stored = stored_links(links, &to, self.fragment);
        let form = site::get(&state.pool, site).await?.and_then(|site| site.form_of_links());
        let places: HashSet<String> = match self.fragment {
            None => stored.values().flat_map(HashMap::values).flatten().cloned().collect(),
            Some(_) => HashSet::new(),
        };
        let (of, target) = (sources.to_vec(), self.target.map(|target| Target::Page(PageId(target))));
        let becomes = target.clone();
        let hrefs = move |model: &Model| -> Result<_, ApiError> {
            let page = becomes.as_ref().and_then(Target::page);
            let has = |place: &String| page.is_some_and(|page| model.has_fragment(page, place));
            let kept = places.into_iter().filter(has).collect();
            let mut hrefs = HashMap::new();
            for source in of {
                let from = page_of(model, source.0)?;
                if let (Some(target), Some(page)) = (&becomes, page) {
                    page_of(model, page.0)?;
                    let ground = model.ground(form.as_ref());
                    hrefs.extend(target.href(&from.address, form.as_ref(), &ground).map(|href| (source, href)));
                }
            }
            Ok((hrefs, kept))
        };
        let (hrefs, kept) = live.ask(hrefs).await??;
        Ok(Common { to, target, hrefs, kept, stored })
    }
}

impl Common {
    /// The links of one page. O(n) in its source.
    fn on_page(&self, text: PageText, version: &str) -> Result<Vec<PlannedLink>, RepairRefusal> {
        let source = text.source.ok_or(RepairRefusal::NotEditable)?;
        if source.hash.to_string() != version {
            return Err(RepairRefusal::ReadAnew);
        }
        let (nothing, href) = (StoredHrefs::new(), self.hrefs.get(&text.page).map(String::as_str));
        let repair = strelm_core::tray::Repair {
            to: &self.to,
            hrefs: self.stored.get(&text.page).unwrap_or(&nothing),
            becomes: self.target.as_ref().zip(href),
            kept: &self.kept,
        };
        repair.on_page(text.page, &Document::read(source.text, source.format))
    }
}
