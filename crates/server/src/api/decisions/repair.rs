//! Mending links that are on a page: they get another target, or are taken off their words.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use strelm_core::document::{Document, Link, LinkKind};
use strelm_core::site::{Address, PageId};
use strelm_store::taken::{Change, NewLink, OldLink};
use strelm_store::{SiteId, page};

use super::make::href_for;
use crate::api::pages::Sentence;
use crate::api::state::page_of;
use crate::api::{ApiError, State};
use crate::live::{LiveSite, Model};

/// Links of one page to one address.
pub struct Repair<'r> {
    pub source: u32,
    pub version: &'r str,
    pub address: &'r str,
    pub fragment: Option<&'r str>,
    /// `None` takes them off.
    pub target: Option<u32>,
}

impl Repair<'_> {
    /// What goes into the tray: each such link in the page's content. O(n) in the page's source.
    pub async fn links(&self, state: &State, site: SiteId, live: &Arc<LiveSite>) -> Result<Vec<NewLink>, ApiError> {
        let source = PageId(self.source);
        let target = self.target.map(PageId);
        let to = Address::parse(self.address).map_err(|error| ApiError::Unusable(error.to_string()))?;
        let plain_href = live
            .ask(move |model| {
                page_of(model, source.0)?;
                target.map(|target| page_of(model, target.0).map(|page| page.address.from_root())).transpose()
            })
            .await??;
        let href = href_for(state, site, live, source, target).await?.or(plain_href);
        let text = page::text(&state.pool, site, source).await?.and_then(|text| text.source);
        let text = text.ok_or_else(|| ApiError::Conflict("This page cannot be edited from here.".to_owned()))?;
        if text.hash.to_string() != self.version {
            return Err(ApiError::Conflict(
                "The page was read anew meanwhile. Look at its links once more.".to_owned(),
            ));
        }
        // What a link leads to was worked out when the page was read; here it is known again by what is written.
        let stored = page::links(&state.pool, site, Some(&[source])).await?;
        let hrefs: HashMap<_, _> = stored
            .into_iter()
            // What is wrong with an address is wrong whatever place on the page a link names.
            .filter(|link| link.to == to && (self.fragment.is_none() || link.fragment.as_deref() == self.fragment))
            .map(|link| (link.href, link.fragment))
            .collect();
        let hash = text.hash;
        let document = state.aside(move || Document::read(text.text, text.format)).await?;
        // A link to a place on a page goes on to the same place, where the new page has it.
        let places: Vec<String> = hrefs.values().flatten().filter(|_| self.fragment.is_none()).cloned().collect();
        let kept = move |model: &Model| -> HashSet<String> {
            let has = |place: &String| target.is_some_and(|target| model.has_fragment(target, place));
            places.into_iter().filter(has).collect()
        };
        let kept = live.ask(kept).await?;
        let links = document.links().iter().enumerate();
        let links = links.filter_map(|(ordinal, link)| Some((ordinal, link, hrefs.get(&link.href)?)));
        let found: Result<Vec<_>, ApiError> = links
            .map(|(ordinal, link, fragment)| {
                let place = fragment.as_ref().filter(|place| kept.contains(*place)).map(|place| format!("#{place}"));
                let href = href.as_ref().map(|href| format!("{href}{}", place.unwrap_or_default()));
                let old = OldLink { href: link.href.clone(), to: to.clone(), fragment: fragment.clone() };
                self.new_link(&document, ordinal, link, old, href.as_deref(), hash)
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
        ordinal: usize,
        link: &Link,
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
            source: PageId(self.source),
            target: self.target.map(PageId),
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
