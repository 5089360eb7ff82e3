//! Mending links that are on a page: they get another target, or are taken off their words.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use strelm_core::document::{Document, Link, LinkKind};
use strelm_core::site::{Address, PageId};
use strelm_store::decision::LeftOut;
use strelm_store::page::{self, PageText, StoredLink};
use strelm_store::taken::{Change, NewLink, OldLink};
use strelm_store::{SiteId, site};

use crate::api::faults::places::MOST_PAGES;
use crate::api::pages::Sentence;
use crate::api::state::page_of;
use crate::api::{ApiError, State};
use crate::live::{LiveSite, Model};

/// Links to one address, on one page or on many.
pub struct Repair<'r> {
    /// Pages with the versions that the editor saw.
    pub pages: Vec<(u32, &'r str)>,
    pub address: &'r str,
    pub fragment: Option<&'r str>,
    /// `None` takes them off.
    pub target: Option<u32>,
}

/// What is written for links to one place, with the places on their pages that they name, by page.
pub type Stored = HashMap<PageId, HashMap<String, Option<String>>>;

/// Those links that lead to a place. What is wrong with an address is wrong whatever place on the page a link names.
pub fn stored_links(links: Vec<StoredLink>, to: &Address, fragment: Option<&str>) -> Stored {
    let mut stored = Stored::new();
    let is_it = |link: &StoredLink| link.to == *to && (fragment.is_none() || link.fragment.as_deref() == fragment);
    for link in links.into_iter().filter(is_it) {
        stored.entry(link.page).or_default().insert(link.href, link.fragment);
    }
    stored
}

/// What all pages of a repair have in common.
#[derive(Clone)]
struct Common {
    to: Address,
    target: Option<PageId>,
    /// What is written for a link on each page; nothing where it is taken off.
    hrefs: HashMap<PageId, String>,
    /// Places that the new page has, too: a link goes on to the same place.
    kept: HashSet<String>,
    stored: Stored,
}

impl Repair<'_> {
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
    ) -> Result<(Vec<NewLink>, Vec<LeftOut>), ApiError> {
        if self.pages.is_empty() || self.pages.len() > MOST_PAGES {
            return Err(ApiError::Unusable(format!("Mend 1 to {MOST_PAGES} pages at once.")));
        }
        let target = self.target.map(PageId);
        let to = Address::parse(self.address).map_err(|error| ApiError::Unusable(error.to_string()))?;
        let sources: Vec<_> = self.pages.iter().map(|(source, _)| PageId(*source)).collect();
        // What a link leads to was worked out when its page was read; here it is known again by what is written.
        let links = page::links(&state.pool, site, Some(&sources)).await?;
        let stored = stored_links(links, &to, self.fragment);
        let form = site::get(&state.pool, site).await?.and_then(|site| site.form_of_links());
        let places: HashSet<String> = match self.fragment {
            None => stored.values().flat_map(HashMap::values).flatten().cloned().collect(),
            Some(_) => HashSet::new(),
        };
        let of = sources.clone();
        let hrefs = move |model: &Model| -> Result<_, ApiError> {
            let has = |place: &String| target.is_some_and(|target| model.has_fragment(target, place));
            let kept = places.into_iter().filter(has).collect();
            let mut hrefs = HashMap::new();
            for source in of {
                let from = page_of(model, source.0)?;
                if let Some(target) = target {
                    let target = page_of(model, target.0)?;
                    let href = form.as_ref().map(|form| form.write(&from.address, &target.address));
                    hrefs.insert(source, href.unwrap_or_else(|| target.address.from_root()));
                }
            }
            Ok((hrefs, kept))
        };
        let (hrefs, kept) = live.ask(hrefs).await??;
        let texts = page::texts(&state.pool, site, Some(&sources)).await?;
        let common = Common { to, target, hrefs, kept, stored };
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
                Err((_, why)) if self.pages.len() == 1 => return Err(why),
                Err((page, why)) => refused.push(LeftOut {
                    source: page.0,
                    target: self.target.unwrap_or(page.0),
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
}

impl Common {
    /// The links of one page. O(n) in its source.
    fn on_page(&self, text: PageText, version: &str) -> Result<Vec<NewLink>, ApiError> {
        let source =
            text.source.ok_or_else(|| ApiError::Conflict("This page cannot be edited from here.".to_owned()))?;
        if source.hash.to_string() != version {
            return Err(ApiError::Conflict(
                "The page was read anew meanwhile. Look at its links once more.".to_owned(),
            ));
        }
        let hash = source.hash;
        let document = Document::read(source.text, source.format);
        let nothing = HashMap::new();
        let hrefs = self.stored.get(&text.page).unwrap_or(&nothing);
        let links = document.links().iter().enumerate();
        let links = links.filter_map(|(ordinal, link)| Some((ordinal, link, hrefs.get(&link.href)?)));
        let found: Result<Vec<_>, ApiError> = links
            .map(|(ordinal, link, fragment)| {
                let place = fragment.as_ref().filter(|place| self.kept.contains(*place));
                let place = place.map(|place| format!("#{place}")).unwrap_or_default();
                let href = self.hrefs.get(&text.page).map(|href| format!("{href}{place}"));
                let old = OldLink { href: link.href.clone(), to: self.to.clone(), fragment: fragment.clone() };
                self.new_link(&document, text.page, (ordinal, link), old, href.as_deref(), hash)
            })
            .collect();
        let found = found?;
        if found.is_empty() {
            let why = "This link is not in the page's own text: it comes from a menu or a template. Change it there.";
            return Err(ApiError::Conflict(why.to_owned()));
        }
        Ok(found)
    }

    fn new_link(
        &self,
        document: &Document,
        source: PageId,
        (ordinal, link): (usize, &Link),
        old: OldLink,
        href: Option<&str>,
        source_hash: strelm_core::document::ContentHash,
    ) -> Result<NewLink, ApiError> {
        let refusal = |why: &dyn std::fmt::Display| {
            ApiError::Conflict(format!("This link cannot be changed from here: {why}. Change it on the page."))
        };
        // What would be refused when it is released is refused now.
        match href {
            Some(href) => document.change_link(ordinal, Some(href), &[]).map_err(|why| refusal(&why))?,
            None => document.take_out_link(ordinal).map_err(|why| refusal(&why))?,
        };
        let sentence = Sentence::around(document, link.text).filter(|_| link.kind != LinkKind::Picture);
        let sentence = sentence.ok_or_else(|| refusal(&"a picture carries it, and no words"))?;
        Ok(NewLink {
            source,
            target: self.target,
            words: link.text,
            source_hash,
            anchor: sentence.anchor,
            before_anchor: sentence.before,
            after_anchor: sentence.after,
            href: href.unwrap_or(&link.href).to_owned(),
            fit: None,
            change: if href.is_some() { Change::Retarget(old) } else { Change::Unlink(old) },
        })
    }
}
