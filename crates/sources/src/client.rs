//! The one way in which Strelm speaks HTTP to the outside.

use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;
use std::time::Duration;

use reqwest::dns::{Addrs, Name, Resolve, Resolving};
use reqwest::header::{HeaderMap, HeaderName, HeaderValue};
use reqwest::{Method, RequestBuilder};
use strelm_core::passing::AS_IT_IS;
use thiserror::Error;
use url::{Host, Url};

pub use reqwest::Response;

use crate::guard::AddressRules;

/// How Strelm names itself to the sites that it reads, and in their `robots.txt`.
pub const AGENT: &str = "Strelm";

/// Why there is no client for HTTP.
#[derive(Debug, Error)]
#[error("no HTTP client could be made: {0}")]
pub struct ClientError(#[from] reqwest::Error);

/// The address is not one that Strelm may speak to.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error(
    "{0} is not a public address; whoever runs Strelm can allow its network with STRELM_ALLOW_NETWORKS or in the \
     configuration file"
)]
pub struct Blocked(pub String);

/// A client that follows no redirects by itself: whoever follows one checks where it leads. Every connection goes to an
/// address that the rules permit, whatever a name resolves to.
#[derive(Debug, Clone)]
pub struct Client {
    http: reqwest::Client,
    rules: AddressRules,
}

impl Client {
    /// # Errors
    /// [`ClientError`] when the system offers no way to make one.
    pub fn new(rules: AddressRules) -> Result<Self, ClientError> {
        // A second installation is refused and harmless.
        let _ = rustls::crypto::ring::default_provider().install_default();
        let http = reqwest::Client::builder()
            .user_agent(concat!("Strelm/", env!("CARGO_PKG_VERSION")))
            .default_headers(HeaderMap::from_iter([(HeaderName::from_static(AS_IT_IS), HeaderValue::from_static("1"))]))
            .redirect(reqwest::redirect::Policy::none())
            .dns_resolver(Arc::new(GuardedNames(rules.clone())))
            .connect_timeout(Duration::from_secs(10))
            .read_timeout(Duration::from_secs(20))
            .timeout(Duration::from_secs(60))
            .no_proxy()
            .build()?;
        Ok(Self { http, rules })
    }

    /// # Errors
    /// [`Blocked`] for an address, written as numbers, that is not permitted. Names are judged when they are resolved.
    pub fn request(&self, method: Method, url: &Url) -> Result<RequestBuilder, Blocked> {
        let literal = match url.host() {
            Some(Host::Ipv4(address)) => Some(IpAddr::V4(address)),
            Some(Host::Ipv6(address)) => Some(IpAddr::V6(address)),
            _ => None,
        };
        match literal {
            Some(address) if !self.rules.permits(address) => Err(Blocked(address.to_string())),
            _ => Ok(self.http.request(method, url.clone())),
        }
    }

    /// # Errors
    /// As [`Client::request`].
    pub fn get(&self, url: &Url) -> Result<RequestBuilder, Blocked> {
        self.request(Method::GET, url)
    }
}

/// Resolves names by the system, and leaves out what is not permitted.
struct GuardedNames(AddressRules);

impl Resolve for GuardedNames {
    fn resolve(&self, name: Name) -> Resolving {
        let rules = self.0.clone();
        Box::pin(async move {
            let found: Vec<SocketAddr> = tokio::net::lookup_host((name.as_str(), 0)).await?.collect();
            let open: Vec<_> = found.into_iter().filter(|address| rules.permits(address.ip())).collect();
            if open.is_empty() {
                return Err(Blocked(name.as_str().to_owned()).into());
            }
            let addresses: Addrs = Box::new(open.into_iter());
            Ok(addresses)
        })
    }
}
