//! Addresses of pages, and what an `href` on a page leads to.

use std::fmt;

use thiserror::Error;
use url::Url;

/// The absolute `http` or `https` address of a page, normalised as the URL Standard says, without fragment, user or
/// password.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Address(Url);

#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum AddressError {
    #[error("“{0}” is not a web address: it should look like https://www.example.org/")]
    NotAnAddress(String),
    #[error("“{0}” is not an address that begins with http:// or https://")]
    NotHttp(String),
}

/// What an `href` leads to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Destination {
    /// A page, of this site or of another, and the place on it.
    Page { address: Address, fragment: Option<String> },
    /// Something else than a page: `mailto:`, `tel:`, `javascript:` and the like, by scheme.
    Other(String),
    /// Not an address at all.
    Unusable,
}

impl Address {
    /// # Errors
    /// [`AddressError`] when `text` is not an absolute web address.
    pub fn parse(text: &str) -> Result<Self, AddressError> {
        let url = Url::parse(text.trim()).map_err(|_| AddressError::NotAnAddress(text.to_owned()))?;
        Self::from_url(url).ok_or_else(|| AddressError::NotHttp(text.to_owned()))
    }

    fn from_url(mut url: Url) -> Option<Self> {
        if !matches!(url.scheme(), "http" | "https") || !url.has_host() {
            return None;
        }
        url.set_fragment(None);
        url.set_username("").ok()?;
        url.set_password(None).ok()?;
        Some(Self(url))
    }

    /// What `href` leads to from this page.
    pub fn follow(&self, href: &str) -> Destination {
        let Ok(url) = self.0.join(href.trim()) else { return Destination::Unusable };
        let fragment = url.fragment().filter(|f| !f.is_empty()).map(str::to_owned);
        let scheme = url.scheme().to_owned();
        match Self::from_url(url) {
            Some(address) => Destination::Page { address, fragment },
            None => Destination::Other(scheme),
        }
    }

    /// Whether both are of the same site: scheme, host and port are equal.
    pub fn same_origin(&self, other: &Self) -> bool {
        self.0.origin() == other.0.origin()
    }

    pub fn as_str(&self) -> &str {
        self.0.as_str()
    }

    pub fn as_url(&self) -> &Url {
        &self.0
    }

    pub fn host(&self) -> &str {
        self.0.host_str().unwrap_or_default()
    }

    /// Path and query, as a link from the same site may write it.
    pub fn from_root(&self) -> String {
        match self.0.query() {
            Some(query) => format!("{}?{query}", self.0.path()),
            None => self.0.path().to_owned(),
        }
    }
}

impl fmt::Display for Address {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.0.as_str())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn page(text: &str, fragment: Option<&str>) -> Destination {
        Destination::Page { address: Address::parse(text).unwrap(), fragment: fragment.map(str::to_owned) }
    }

    #[test]
    fn every_form_of_a_link_leads_to_the_same_page() {
        let here = Address::parse("http://Larkmoor.example:80/guides/moon.html").unwrap();
        for href in ["sun.html", "./sun.html", "/guides/sun.html", "//larkmoor.example/guides/sun.html", " sun.html "] {
            assert_eq!(here.follow(href), page("http://larkmoor.example/guides/sun.html", None), "{href}");
        }
        assert_eq!(here.follow("#rays"), page("http://larkmoor.example/guides/moon.html", Some("rays")));
        assert_eq!(here.follow("mailto:a@b.example"), Destination::Other("mailto".into()));
        assert_eq!(here.follow("http://["), Destination::Unusable);
    }
}
