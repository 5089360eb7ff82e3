//! Looking at a site before it is read.

use std::collections::HashSet;
use std::time::Duration;

use strelm_core::document::{Document, Entrance};
use strelm_core::site::{Address, Destination};

use super::lists::listed;
use super::robots::Robots;
use super::{CrawlError, CrawlLimits, is_html};
use crate::client::Client;
use crate::fetch::fetch;

/// What a look at a site tells before it is read.
#[derive(Debug, Clone)]
pub struct Glance {
    /// Where the entry page really is, after redirects.
    pub entry: Address,
    pub title: Option<String>,
    /// Addresses that its sitemaps list.
    pub listed: usize,
    /// Links of the entry page to other pages of the site.
    pub linked: usize,
    /// The editing interface that the entry page names.
    pub micropub: Option<Address>,
    /// What the entry page is, where it holds nothing of its own, and where readers get on.
    pub entrance: Option<(Entrance, Option<Address>)>,
    /// Seconds between requests that `robots.txt` asks for.
    pub delay: Duration,
}

/// Looks at the entry page, `robots.txt` and the sitemaps of a site without reading it.
///
/// # Errors
/// [`CrawlError`] says why it could not be read.
pub async fn glance(client: &Client, entry: &Address, limits: CrawlLimits) -> Result<Glance, CrawlError> {
    let robots = Robots::of(client, entry, limits).await?;
    if !robots.allow(entry) {
        return Err(CrawlError::EntryDisallowed(entry.clone()));
    }
    let fetched = fetch(client, entry, limits.fetch, is_html).await;
    let fetched = fetched.map_err(|error| CrawlError::Entry { address: entry.clone(), error })?;
    if !fetched.is_html() {
        return Err(CrawlError::EntryNotHtml(entry.clone()));
    }
    let here = fetched.address.clone();
    let in_header = fetched.micropub.clone();
    let document = Document::from_html(fetched.text());
    let follow = |href: &str| match here.follow(href) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    };
    let links: HashSet<_> = document.links().iter().filter_map(|link| follow(&link.href)).collect();
    let entrance = document.entrance();
    Ok(Glance {
        // What the server calls its listing is no name of the site.
        title: document.head().title.clone().filter(|_| entrance != Some(Entrance::Listing)),
        listed: listed(client, &here, &robots, limits).await.len(),
        linked: links.iter().filter(|address| address.same_origin(&here) && **address != here).count(),
        micropub: in_header.as_deref().or_else(|| document.head().link("micropub")).and_then(follow),
        entrance: match entrance {
            Some(entrance) => {
                let onward = onward(client, &here, &entrance, &document, limits).await;
                Some((entrance, onward))
            }
            None => None,
        },
        delay: robots.delay(),
        entry: here,
    })
}

/// Frames, or pages of a listing, that are looked at.
const MOST_TRIED: usize = 6;

/// The page of the site on which readers get on from an entry page without text: of several that with most links.
async fn onward(
    client: &Client,
    entry: &Address,
    entrance: &Entrance,
    document: &Document,
    limits: CrawlLimits,
) -> Option<Address> {
    let hrefs: Vec<&str> = match entrance {
        Entrance::Frames(frames) => frames.iter().map(String::as_str).collect(),
        Entrance::Script(to) => vec![to],
        Entrance::Listing => {
            document.links().iter().map(|link| link.href.as_str()).filter(|it| may_be_page(it)).collect()
        }
        Entrance::Empty => Vec::new(),
    };
    let mut best: Option<(usize, Address)> = None;
    for href in hrefs.into_iter().take(MOST_TRIED) {
        let Destination::Page { address, .. } = entry.follow(href) else { continue };
        if !address.same_origin(entry) {
            continue;
        }
        let Ok(fetched) = fetch(client, &address, limits.fetch, is_html).await else { continue };
        let at = fetched.address.clone();
        let page = Document::from_html(fetched.text());
        if page.entrance().is_some() {
            continue;
        }
        let links = page.links().len();
        if best.as_ref().is_none_or(|(most, _)| links > *most) {
            best = Some((links, at));
        }
    }
    best.map(|(_, address)| address)
}

/// Whether an entry of a listing may be a page, or a folder that has one of its own: not a folder above, nor another order
/// of the same listing.
fn may_be_page(href: &str) -> bool {
    let is_below = !href.starts_with(['/', '.', '?', '#']);
    is_below && [".html", ".htm", ".xhtml", "/"].iter().any(|end| href.ends_with(end))
}
