//! What a crawl is told before it begins, and what it tells.

use std::collections::HashMap;
use std::time::Duration;

use strelm_core::site::{Address, IGNORED_PARAMETERS, SitePart, Validators};
use thiserror::Error;

use crate::crawled_page::CrawledPage;
use crate::fetch::{FetchError, FetchLimits};
use crate::pace::Patience;

/// How much a crawl may take, and how fast it goes.
#[derive(Debug, Clone, Copy)]
pub struct CrawlLimits {
    pub most_pages: usize,
    pub most_at_once: usize,
    pub most_sitemaps: usize,
    /// From the beginning of one request to that of the next, unless `robots.txt` asks for more.
    pub apart: Duration,
    pub patience: Patience,
    pub fetch: FetchLimits,
}

impl Default for CrawlLimits {
    fn default() -> Self {
        Self {
            most_pages: 20_000,
            most_at_once: 8,
            most_sitemaps: 200,
            apart: Duration::ZERO,
            patience: Patience::default(),
            fetch: FetchLimits::default(),
        }
    }
}

/// What is known before a crawl begins or goes on.
#[derive(Debug, Clone)]
pub struct CrawlStart {
    /// Addresses that are to be looked at in any case, in this order.
    pub waiting: Vec<Address>,
    /// Addresses that were dealt with before the crawl broke off.
    pub done: Vec<Address>,
    /// What the site said of the versions that are known.
    pub validators: HashMap<Address, Validators>,
    /// Parameters of addresses that change nothing on the page.
    pub ignored_parameters: Vec<String>,
    /// Which part of the site is read; the entry page is in any case.
    pub part: SitePart,
}

impl Default for CrawlStart {
    fn default() -> Self {
        Self {
            waiting: Vec::new(),
            done: Vec::new(),
            validators: HashMap::new(),
            ignored_parameters: IGNORED_PARAMETERS.map(str::to_owned).into(),
            part: SitePart::default(),
        }
    }
}

/// What a crawl tells while it goes on.
#[derive(Debug)]
pub enum CrawlEvent {
    /// The entry page names an editing interface.
    NamesInterface(Address),
    /// An address that will be looked at.
    Found(Address),
    Page(Box<CrawledPage>),
    /// The page is still the version that the validators name. Its links are not followed again.
    Unchanged(Address),
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
    /// Left out because `robots.txt` asks for it, or because it is a draft.
    LeftOut {
        address: Address,
        why: &'static str,
    },
    /// The site asks to wait, or has to be waited for.
    Waits(Duration),
    /// More addresses were found than are to be read.
    Full(usize),
}

/// Why a crawl cannot begin.
#[derive(Debug, Error)]
pub enum CrawlError {
    #[error("{address} cannot be read: {error}")]
    Entry { address: Address, error: FetchError },
    #[error("{0} is not an HTML page")]
    EntryNotHtml(Address),
    #[error("robots.txt of the site asks not to read {0}")]
    EntryDisallowed(Address),
    #[error("the site stopped answering ({0}). What was read is kept; go on when it is back")]
    Down(FetchError),
    #[error("the reading was stopped")]
    Stopped,
}
