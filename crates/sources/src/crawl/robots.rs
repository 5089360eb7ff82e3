//! `robots.txt` (RFC 9309): what a site asks of whoever reads it.

use std::time::Duration;

use reqwest::StatusCode;
use strelm_core::site::{Address, Destination};
use texting_robots::Robot;

use super::{CrawlError, CrawlLimits};
use crate::client::{AGENT, Client};
use crate::fetch::{FetchError, fetch};

/// A `robots.txt` that asks for more time between requests gets this much.
const LONGEST_CRAWL_DELAY: Duration = Duration::from_secs(10);

/// What a site asks of whoever reads it.
pub(super) struct Robots(Option<Robot>);

impl Robots {
    /// A site without `robots.txt` allows everything, as RFC 9309 says.
    pub async fn of(client: &Client, entry: &Address, limits: CrawlLimits) -> Result<Self, CrawlError> {
        let Destination::Page { address, .. } = entry.follow("/robots.txt") else { return Ok(Self(None)) };
        let mut tried = 0;
        loop {
            let error = match fetch(client, &address, limits.fetch, |_| true).await {
                Ok(fetched) => return Ok(Self(Robot::new(AGENT, fetched.text().as_bytes()).ok())),
                Err(error) => error,
            };
            if let Some(wait) = limits.patience.wait_after(&error, tried) {
                tried += 1;
                tokio::time::sleep(wait).await;
                continue;
            }
            return match &error {
                FetchError::Unreachable(_) | FetchError::Blocked(_) => Err(CrawlError::Entry { address, error }),
                FetchError::Status { status, .. }
                    if status.is_server_error() && *status != StatusCode::NOT_IMPLEMENTED =>
                {
                    Err(CrawlError::Entry { address, error })
                }
                _ => Ok(Self(None)),
            };
        }
    }

    /// Whether a page may be fetched.
    pub fn allow(&self, address: &Address) -> bool {
        self.0.as_ref().is_none_or(|robot| robot.allowed(address.as_str()))
    }

    /// How long the site wants to be left alone between two requests.
    pub fn delay(&self) -> Duration {
        let asked = self.0.as_ref().and_then(|robot| robot.delay).unwrap_or_default();
        Duration::try_from_secs_f32(asked).unwrap_or_default().min(LONGEST_CRAWL_DELAY)
    }

    /// The sitemaps that it names, on the site's own host.
    pub fn sitemaps(&self, entry: &Address) -> Vec<Address> {
        let named = self.0.iter().flat_map(|robot| &robot.sitemaps).filter_map(|text| Address::parse(text).ok());
        let usual = match entry.follow("/sitemap.xml") {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        };
        named.chain(usual).filter(|address| address.same_origin(entry)).collect()
    }
}
