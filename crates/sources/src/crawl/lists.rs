//! Pages that a site lists itself: in its sitemaps and feeds.

use std::collections::{HashSet, VecDeque};

use strelm_core::site::{Address, Destination};
use strelm_formats::feed;
use strelm_formats::sitemap::{self, Sitemap};

use super::CrawlLimits;
use super::robots::Robots;
use crate::client::Client;
use crate::fetch::fetch;

/// The protocol allows no longer sitemap, unpacked.
const LONGEST_SITEMAP: usize = 50 << 20;

/// Pages that a feed names. One that cannot be read is passed over.
pub(super) async fn fed(client: &Client, address: &Address, robots: &Robots, limits: CrawlLimits) -> Vec<Address> {
    if !robots.allow(address) {
        return Vec::new();
    }
    let Ok(fetched) = fetch(client, address, limits.fetch, |_| true).await else { return Vec::new() };
    match feed::read(&fetched.text()) {
        Ok(entries) => entries
            .into_iter()
            .filter_map(|entry| match address.follow(&entry.address) {
                Destination::Page { address, .. } => Some(address),
                _ => None,
            })
            .collect(),
        Err(error) => {
            tracing::warn!(%address, %error, "a feed is passed over");
            Vec::new()
        }
    }
}

/// All addresses that the site's sitemaps list. A sitemap that cannot be read is passed over: links lead on.
pub(super) async fn listed(client: &Client, entry: &Address, robots: &Robots, limits: CrawlLimits) -> Vec<Address> {
    let mut waiting = VecDeque::from(robots.sitemaps(entry));
    let mut seen = HashSet::new();
    let mut pages = Vec::new();
    while let Some(address) = waiting.pop_front() {
        if seen.len() >= limits.most_sitemaps || !seen.insert(address.clone()) {
            continue;
        }
        let Ok(fetched) = fetch(client, &address, limits.fetch, |_| true).await else { continue };
        match sitemap::read(&fetched.unpacked_text(LONGEST_SITEMAP)) {
            Ok(Sitemap::Pages(found)) => pages.extend(found.iter().filter_map(|text| Address::parse(text).ok())),
            Ok(Sitemap::Index(found)) => {
                let maps = found.iter().filter_map(|text| Address::parse(text).ok());
                waiting.extend(maps.filter(|map| map.same_origin(entry)));
            }
            Err(error) => tracing::warn!(%address, %error, "a sitemap is passed over"),
        }
    }
    pages
}
