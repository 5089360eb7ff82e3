//! The one way in which Strelm speaks HTTP to the outside.

use std::time::Duration;

use thiserror::Error;

pub use reqwest::{Client, Response};

/// How Strelm names itself to the sites that it reads, and in their `robots.txt`.
pub const AGENT: &str = "Strelm";

#[derive(Debug, Error)]
#[error("no HTTP client could be made: {0}")]
pub struct ClientError(#[from] reqwest::Error);

/// A client that follows no redirects by itself: whoever follows one checks where it leads.
///
/// # Errors
/// [`ClientError`] when the system offers no way to make one.
pub fn client() -> Result<Client, ClientError> {
    // A second installation is refused and harmless.
    let _ = rustls::crypto::ring::default_provider().install_default();
    Ok(Client::builder()
        .user_agent(concat!("Strelm/", env!("CARGO_PKG_VERSION")))
        .redirect(reqwest::redirect::Policy::none())
        .connect_timeout(Duration::from_secs(10))
        .timeout(Duration::from_secs(30))
        .no_proxy()
        .build()?)
}
