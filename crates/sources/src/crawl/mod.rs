//! Reading a live site: its sitemaps first, then its links, page by page, as its `robots.txt` allows.

mod glance;
mod lists;
mod robots;
mod terms;

use std::collections::{HashMap, HashSet, VecDeque};

use futures::StreamExt;
use futures::stream::FuturesUnordered;
use reqwest::StatusCode;
use strelm_core::document::{Document, Entrance};
use strelm_core::site::{Address, Destination, SitePart, Traps, Validators};
use tokio::sync::mpsc;

pub use self::glance::{Glance, glance};
use self::lists::{fed, listed};
use self::robots::Robots;
pub use self::terms::{CrawlError, CrawlEvent, CrawlLimits, CrawlStart};
use crate::client::Client;
pub use crate::crawled_page::CrawledPage;
use crate::fetch::{Body, FetchError, Fetched, fetch_if_changed};
use crate::front_matter::FrontMatter;
use crate::pace::Pace;

/// Further feeds of an entry page are not read.
const MOST_FEEDS: usize = 5;

/// So many failures in a row, none of them about a single page, mean that the site is down.
const MOST_FAILURES_IN_A_ROW: usize = 12;

/// Reads the site of `entry` and sends what it finds, in no particular order. Memory: O(addresses).
///
/// # Errors
/// [`CrawlError`] when there is nothing to read at the entry page, when the site stops answering, or when nobody
/// receives the events any more.
pub async fn crawl(
    client: &Client,
    entry: &Address,
    start: CrawlStart,
    limits: CrawlLimits,
    events: mpsc::Sender<CrawlEvent>,
) -> Result<(), CrawlError> {
    let robots = Robots::of(client, entry, limits).await?;
    if !robots.allow(entry) {
        return Err(CrawlError::EntryDisallowed(entry.clone()));
    }
    let pace = Pace::new(limits.apart.max(robots.delay()));
    let visit = Visit { client, pace: &pace, limits, events: &events, validators: &start.validators };
    let goes_on = !start.done.is_empty();
    let mut frontier =
        Frontier::new(entry.clone(), robots, limits.most_pages, start.ignored_parameters, start.part, events.clone());
    frontier.known.extend(start.done);
    if !frontier.known.contains(entry) {
        frontier.add(entry.clone()).await?;
        let first = visit.fetch(entry).await.map_err(|error| CrawlError::Entry { address: entry.clone(), error })?;
        frontier.waiting.pop_front();
        if !first.is_html() && !matches!(first.body, Body::Unchanged) {
            return Err(CrawlError::EntryNotHtml(entry.clone()));
        }
        frontier.take(entry.clone(), Ok(first)).await?;
    }
    for address in start.waiting {
        frontier.add(address).await?;
    }
    if !goes_on {
        for address in listed(client, entry, &frontier.robots, limits).await {
            frontier.add(address).await?;
        }
        for feed in std::mem::take(&mut frontier.feeds) {
            for address in fed(client, &feed, &frontier.robots, limits).await {
                frontier.add(address).await?;
            }
        }
    }
    let mut running = FuturesUnordered::new();
    let mut in_a_row = 0;
    loop {
        while running.len() < limits.most_at_once
            && let Some(address) = frontier.next()
        {
            let visit = &visit;
            running.push(async move {
                let result = visit.fetch(&address).await;
                (address, result)
            });
        }
        let Some((address, result)) = running.next().await else { return Ok(()) };
        match result {
            Err(error) if is_about_the_site(&error) => {
                in_a_row += 1;
                if in_a_row >= MOST_FAILURES_IN_A_ROW {
                    return Err(CrawlError::Down(error));
                }
                frontier.take(address, Err(error)).await?;
            }
            result => {
                in_a_row = 0;
                frontier.take(address, result).await?;
            }
        }
    }
}

fn is_about_the_site(error: &FetchError) -> bool {
    match error {
        FetchError::Unreachable(_) | FetchError::Blocked(_) => true,
        FetchError::Status { status, .. } => {
            *status == StatusCode::TOO_MANY_REQUESTS || *status == StatusCode::SERVICE_UNAVAILABLE
        }
        _ => false,
    }
}

fn is_html(media_type: &str) -> bool {
    matches!(media_type, "text/html" | "application/xhtml+xml")
}

/// How an address is asked for.
struct Visit<'v> {
    client: &'v Client,
    pace: &'v Pace,
    limits: CrawlLimits,
    events: &'v mpsc::Sender<CrawlEvent>,
    validators: &'v HashMap<Address, Validators>,
}

impl Visit<'_> {
    /// Asks in turn, and again after a while when that may help.
    async fn fetch(&self, address: &Address) -> Result<Fetched, FetchError> {
        let known = |address: &Address| self.validators.get(address).cloned();
        let mut tried = 0;
        loop {
            self.pace.turn().await;
            let error = match fetch_if_changed(self.client, address, known, self.limits.fetch, is_html).await {
                Ok(fetched) => return Ok(fetched),
                Err(error) => error,
            };
            let Some(wait) = self.limits.patience.wait_after(&error, tried) else { return Err(error) };
            tried += 1;
            // A site that says when to come back speaks for all its pages.
            if matches!(error, FetchError::Status { retry_after: Some(_), .. }) {
                self.pace.hold(wait);
            }
            // Nobody listening means that the crawl ends anyway.
            let _ = self.events.send(CrawlEvent::Waits(wait)).await;
            if self.events.is_closed() {
                return Err(error);
            }
            tokio::time::sleep(wait).await;
        }
    }
}

/// Addresses that are known, and those that wait.
struct Frontier {
    entry: Address,
    robots: Robots,
    known: HashSet<Address>,
    waiting: VecDeque<Address>,
    most: usize,
    is_full: bool,
    traps: Traps,
    ignored_parameters: Vec<String>,
    part: SitePart,
    /// Feeds that the entry page names.
    feeds: Vec<Address>,
    events: mpsc::Sender<CrawlEvent>,
}

impl Frontier {
    fn new(
        entry: Address,
        robots: Robots,
        most: usize,
        ignored_parameters: Vec<String>,
        part: SitePart,
        events: mpsc::Sender<CrawlEvent>,
    ) -> Self {
        Self {
            entry,
            ignored_parameters,
            part,
            robots,
            known: HashSet::new(),
            waiting: VecDeque::new(),
            most,
            is_full: false,
            traps: Traps::default(),
            feeds: Vec::new(),
            events,
        }
    }

    fn next(&mut self) -> Option<Address> {
        self.waiting.pop_front()
    }

    async fn tell(&self, event: CrawlEvent) -> Result<(), CrawlError> {
        self.events.send(event).await.map_err(|_| CrawlError::Stopped)
    }

    async fn add(&mut self, address: Address) -> Result<(), CrawlError> {
        let is_wanted = address.same_origin(&self.entry) && (self.part.holds(&address) || address == self.entry);
        if !is_wanted || self.known.contains(&address) {
            return Ok(());
        }
        if self.known.len() >= self.most {
            if !std::mem::replace(&mut self.is_full, true) {
                self.tell(CrawlEvent::Full(self.most)).await?;
            }
            return Ok(());
        }
        self.known.insert(address.clone());
        if !self.robots.allow(&address) {
            let why = "robots.txt of the site asks not to read it";
            return self.tell(CrawlEvent::LeftOut { address, why }).await;
        }
        self.waiting.push_back(address.clone());
        self.tell(CrawlEvent::Found(address)).await
    }

    /// Adds what a page leads to, unless it is one of addresses without end.
    async fn add_linked(&mut self, address: Address, from: &Address) -> Result<(), CrawlError> {
        let address = address.in_scheme_of(&self.entry).without_parameters(&self.ignored_parameters);
        let is_new = address.same_origin(&self.entry) && !self.known.contains(&address);
        if is_new && self.traps.is_trap(&address, from) {
            let why =
                "it is one of very many addresses that differ in numbers alone and lead to each other without end";
            // Once is enough to know of it.
            self.known.insert(address.clone());
            return self.tell(CrawlEvent::LeftOut { address, why }).await;
        }
        self.add(address).await
    }

    /// Takes in what an address gave: tells it, and adds what it links to.
    async fn take(&mut self, asked: Address, result: Result<Fetched, FetchError>) -> Result<(), CrawlError> {
        let fetched = match result {
            Ok(fetched) => fetched,
            Err(error) => return self.tell(CrawlEvent::Failed { address: asked, error }).await,
        };
        let to = fetched.address.clone();
        // Each sends on to the next, so that a chain can be told from a single step.
        let next = fetched.redirects.iter().skip(1).chain(std::iter::once(&to));
        for (from, to) in fetched.redirects.iter().zip(next) {
            if self.known.insert(from.clone()) {
                self.tell(CrawlEvent::Found(from.clone())).await?;
            }
            self.tell(CrawlEvent::Redirect { from: from.clone(), to: to.clone() }).await?;
        }
        if to != self.entry && !self.part.holds(&to) {
            return Ok(());
        }
        if asked != to {
            if !self.known.insert(to.clone()) {
                // The page behind the redirect is known, and read on its own.
                return Ok(());
            }
            self.tell(CrawlEvent::Found(to.clone())).await?;
        }
        if matches!(fetched.body, Body::Unchanged) {
            return self.tell(CrawlEvent::Unchanged(to)).await;
        }
        if !fetched.is_html() {
            let media_type = fetched.media_type;
            return self.tell(CrawlEvent::File { address: to, media_type }).await;
        }
        let validators = fetched.validators.clone();
        let in_header = fetched.micropub.clone();
        let document = Document::from_html(fetched.text());
        if to == self.entry {
            let named = in_header.or_else(|| document.head().link("micropub").map(str::to_owned));
            if let Some(Destination::Page { address, .. }) = named.map(|href| to.follow(&href)) {
                self.tell(CrawlEvent::NamesInterface(address)).await?;
            }
            let feeds = document.head().feeds().map(|href| to.follow(href));
            let own = feeds.filter_map(|feed| match feed {
                Destination::Page { address, .. } if address.same_origin(&self.entry) => Some(address),
                _ => None,
            });
            self.feeds = own.take(MOST_FEEDS).collect();
        }
        if let Some(on) = self.sent_on(&to, &document) {
            self.tell(CrawlEvent::Redirect { from: to.clone(), to: on.clone() }).await?;
            return self.add_linked(on, &to).await;
        }
        let also = document.head().refresh.iter().map(String::as_str);
        let also = also.chain(["next", "prev"].into_iter().filter_map(|rel| document.head().link(rel)));
        let leads_on = match document.entrance() {
            Some(Entrance::Frames(frames)) => frames,
            Some(Entrance::Script(to)) => vec![to],
            _ => Vec::new(),
        };
        let also = also.chain(leads_on.iter().map(String::as_str));
        let links: Vec<_> =
            document.links().iter().map(|link| link.href.as_str()).chain(also).map(|href| to.follow(href)).collect();
        for destination in links {
            if let Destination::Page { address, .. } = destination {
                self.add_linked(address, &to).await?;
            }
        }
        let (front, destinations) = (FrontMatter::default(), None);
        let page = CrawledPage { address: to, document, validators, source: None, front, destinations };
        self.tell(CrawlEvent::Page(Box::new(page))).await
    }

    /// Where a page of the site that says nothing itself sends its readers on. Of the entry page the editor is told instead.
    fn sent_on(&self, page: &Address, document: &Document) -> Option<Address> {
        let to = document.sends_on().filter(|_| *page != self.entry)?;
        match page.follow(&to) {
            Destination::Page { address, .. } if address.same_origin(&self.entry) && address != *page => Some(address),
            _ => None,
        }
    }
}
