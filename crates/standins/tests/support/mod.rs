//! The demo site, served and read as its users' programs read it.

// Each test has this for itself and uses a part of it.
#![allow(dead_code, clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::time::Duration;

use strelm_core::document::Document;
use strelm_core::site::Address;
use strelm_sources::client::Client;
use strelm_sources::crawl::{CrawlEvent, CrawlLimits, CrawlStart, crawl};
use strelm_sources::guard::AddressRules;
use strelm_standins::live_site::{Options, Running, start};

/// The folder with the sources of its first pages, in which that of the further ones stands.
pub fn demo() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"))
}

pub fn live_site(seeds: Vec<PathBuf>, state: &tempfile::TempDir) -> Running {
    let options =
        Options { seeds, state: state.path().to_owned(), port: 0, token: "secret".into(), delay: Duration::ZERO };
    start(options).unwrap()
}

pub struct Read {
    pub pages: BTreeMap<Address, Document>,
    pub redirects: BTreeMap<Address, Address>,
}

/// All pages that can be reached from an entry page or that the site lists.
pub fn read_all(entry: &Address) -> Read {
    let runtime = tokio::runtime::Runtime::new().unwrap();
    runtime.block_on(async {
        let client = Client::new(AddressRules::with_loopback()).unwrap();
        let (sender, mut events) = tokio::sync::mpsc::channel(16);
        let entry = entry.clone();
        let crawling =
            tokio::spawn(
                async move { crawl(&client, &entry, CrawlStart::default(), CrawlLimits::default(), sender).await },
            );
        let mut read = Read { pages: BTreeMap::new(), redirects: BTreeMap::new() };
        while let Some(event) = events.recv().await {
            match event {
                CrawlEvent::Page(page) => drop(read.pages.insert(page.address.clone(), page.document)),
                CrawlEvent::Redirect { from, to } => drop(read.redirects.insert(from, to)),
                _ => {}
            }
        }
        crawling.await.unwrap().unwrap();
        read
    })
}
