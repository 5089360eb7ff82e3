//! Reading a live site: its sitemaps first, then its links, page by page, as its `robots.txt` allows.

use std::collections::{HashSet, VecDeque};

use futures::StreamExt;
use futures::stream::FuturesUnordered;
use reqwest::StatusCode;
use strelm_core::document::Document;
use strelm_core::site::{Address, Destination};
use strelm_formats::sitemap::{self, Sitemap};
use texting_robots::Robot;
use thiserror::Error;
use tokio::sync::mpsc;

use crate::client::AGENT;
use crate::fetch::{FetchError, FetchLimits, Fetched, fetch};

#[derive(Debug, Clone, Copy)]
pub struct CrawlLimits {
    pub most_pages: usize,
    pub most_at_once: usize,
    pub most_sitemaps: usize,
    pub fetch: FetchLimits,
}

impl Default for CrawlLimits {
    fn default() -> Self {
        Self { most_pages: 200_000, most_at_once: 8, most_sitemaps: 200, fetch: FetchLimits::default() }
    }
}

/// What a crawl tells while it goes on.
#[derive(Debug)]
pub enum CrawlEvent {
    /// How many addresses are known so far, read or not.
    Known(usize),
    Page(Box<CrawledPage>),
    /// Something else than a page that a page links to.
    File {
        address: Address,
        media_type: String,
    },
    Redirect {
        from: Address,
        to: Address,
    },
    Failed {
        address: Address,
        error: FetchError,
    },
    /// Left out because `robots.txt` asks for it.
    Disallowed(Address),
}

#[derive(Debug)]
pub struct CrawledPage {
    pub address: Address,
    pub document: Document,
}

#[derive(Debug, Error)]
pub enum CrawlError {
    #[error("{address} cannot be read: {error}")]
    Entry { address: Address, error: FetchError },
    #[error("{0} is not an HTML page")]
    EntryNotHtml(Address),
    #[error("robots.txt of the site asks not to read {0}")]
    EntryDisallowed(Address),
    #[error("the reading was stopped")]
    Stopped,
}

/// Reads the site of `entry` and sends what it finds, in no particular order. Memory: O(addresses).
///
/// # Errors
/// [`CrawlError`] when there is nothing to read at the entry page, or when nobody receives the events any more.
pub async fn crawl(
    client: &reqwest::Client,
    entry: &Address,
    limits: CrawlLimits,
    events: mpsc::Sender<CrawlEvent>,
) -> Result<(), CrawlError> {
    let robots = Robots::of(client, entry, limits.fetch).await?;
    if !robots.allow(entry) {
        return Err(CrawlError::EntryDisallowed(entry.clone()));
    }
    let mut frontier = Frontier::new(entry.clone(), robots, limits.most_pages, events);
    let first = fetch(client, entry, limits.fetch, is_html).await;
    let first = first.map_err(|error| CrawlError::Entry { address: entry.clone(), error })?;
    if !first.is_html() {
        return Err(CrawlError::EntryNotHtml(entry.clone()));
    }
    frontier.take(entry.clone(), Ok(first)).await?;
    for address in listed(client, entry, &frontier.robots, limits).await {
        frontier.add(address).await?;
    }
    frontier.tell_known().await?;
    let mut running = FuturesUnordered::new();
    loop {
        while running.len() < limits.most_at_once
            && let Some(address) = frontier.next()
        {
            running.push(async move {
                let result = fetch(client, &address, limits.fetch, is_html).await;
                (address, result)
            });
        }
        let Some((address, result)) = running.next().await else { return Ok(()) };
        frontier.take(address, result).await?;
    }
}

fn is_html(media_type: &str) -> bool {
    matches!(media_type, "text/html" | "application/xhtml+xml")
}

/// Addresses that are known, and those that wait.
struct Frontier {
    entry: Address,
    robots: Robots,
    known: HashSet<Address>,
    waiting: VecDeque<Address>,
    most: usize,
    events: mpsc::Sender<CrawlEvent>,
}

impl Frontier {
    fn new(entry: Address, robots: Robots, most: usize, events: mpsc::Sender<CrawlEvent>) -> Self {
        let known = HashSet::from([entry.clone()]);
        Self { entry, robots, known, waiting: VecDeque::new(), most, events }
    }

    fn next(&mut self) -> Option<Address> {
        self.waiting.pop_front()
    }

    async fn tell(&self, event: CrawlEvent) -> Result<(), CrawlError> {
        self.events.send(event).await.map_err(|_| CrawlError::Stopped)
    }

    async fn tell_known(&self) -> Result<(), CrawlError> {
        self.tell(CrawlEvent::Known(self.known.len())).await
    }

    async fn add(&mut self, address: Address) -> Result<(), CrawlError> {
        if !address.same_origin(&self.entry) || self.known.len() >= self.most || !self.known.insert(address.clone()) {
            return Ok(());
        }
        if self.robots.allow(&address) {
            self.waiting.push_back(address);
            return Ok(());
        }
        self.tell(CrawlEvent::Disallowed(address)).await
    }

    /// Takes in what an address gave: tells it, and adds what it links to.
    async fn take(&mut self, asked: Address, result: Result<Fetched, FetchError>) -> Result<(), CrawlError> {
        let fetched = match result {
            Ok(fetched) => fetched,
            Err(error) => return self.tell(CrawlEvent::Failed { address: asked, error }).await,
        };
        let to = fetched.address.clone();
        for from in &fetched.redirects {
            self.tell(CrawlEvent::Redirect { from: from.clone(), to: to.clone() }).await?;
        }
        if asked != to && !self.known.insert(to.clone()) {
            // The page behind the redirect is known, and read on its own.
            return Ok(());
        }
        if !fetched.is_html() {
            let media_type = fetched.media_type;
            return self.tell(CrawlEvent::File { address: to, media_type }).await;
        }
        let document = Document::from_html(fetched.text());
        let links: Vec<_> = document.links().iter().map(|link| to.follow(&link.href)).collect();
        for destination in links {
            if let Destination::Page { address, .. } = destination {
                self.add(address).await?;
            }
        }
        self.tell(CrawlEvent::Page(Box::new(CrawledPage { address: to, document }))).await?;
        self.tell_known().await
    }
}

struct Robots(Option<Robot>);

impl Robots {
    /// A site without `robots.txt` allows everything, as RFC 9309 says.
    async fn of(client: &reqwest::Client, entry: &Address, limits: FetchLimits) -> Result<Self, CrawlError> {
        let Destination::Page { address, .. } = entry.follow("/robots.txt") else { return Ok(Self(None)) };
        match fetch(client, &address, limits, |_| true).await {
            Ok(fetched) => Ok(Self(Robot::new(AGENT, fetched.text().as_bytes()).ok())),
            Err(error @ FetchError::Unreachable(_)) => Err(CrawlError::Entry { address, error }),
            Err(FetchError::Status(status)) if status.is_server_error() && status != StatusCode::NOT_IMPLEMENTED => {
                Err(CrawlError::Entry { address, error: FetchError::Status(status) })
            }
            Err(_) => Ok(Self(None)),
        }
    }

    fn allow(&self, address: &Address) -> bool {
        self.0.as_ref().is_none_or(|robot| robot.allowed(address.as_str()))
    }

    fn sitemaps(&self, entry: &Address) -> Vec<Address> {
        let named = self.0.iter().flat_map(|robot| &robot.sitemaps).filter_map(|text| Address::parse(text).ok());
        let usual = match entry.follow("/sitemap.xml") {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        };
        named.chain(usual).filter(|address| address.same_origin(entry)).collect()
    }
}

/// All addresses that the site's sitemaps list. A sitemap that cannot be read is passed over: links lead on.
async fn listed(client: &reqwest::Client, entry: &Address, robots: &Robots, limits: CrawlLimits) -> Vec<Address> {
    let mut waiting = VecDeque::from(robots.sitemaps(entry));
    let mut seen = HashSet::new();
    let mut pages = Vec::new();
    while let Some(address) = waiting.pop_front() {
        if seen.len() >= limits.most_sitemaps || !seen.insert(address.clone()) {
            continue;
        }
        let Ok(fetched) = fetch(client, &address, limits.fetch, |_| true).await else { continue };
        match sitemap::read(&fetched.text()) {
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
