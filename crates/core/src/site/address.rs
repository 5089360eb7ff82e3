//! Addresses of pages, and what an `href` on a page leads to.

use std::fmt;

use thiserror::Error;
use url::Url;

/// The absolute `http` or `https` address of a page, without fragment, user or password, normalised as the URL Standard
/// says and, beyond it, in its percent-encoding (RFC 3986, 6.2.2): `%7e` is `~`, and `%c3` is `%C3`.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Address(Url);

/// Why a text is no address of a page.
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
        if let Some(path) = plainly_encoded(url.path()) {
            url.set_path(&path);
        }
        if let Some(query) = url.query().and_then(plainly_encoded) {
            url.set_query(Some(&query));
        }
        Some(Self(url))
    }

    /// The same address with the other of `http` and `https`; `None` where a port is named.
    pub fn other_scheme(&self) -> Option<Self> {
        let mut url = self.0.clone();
        let other = if url.scheme() == "http" { "https" } else { "http" };
        (url.port().is_none() && url.set_scheme(other).is_ok()).then_some(Self(url))
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

    /// The address as the site of `entry` would write it: with the scheme of the entry page when only that differs.
    #[must_use]
    pub fn in_scheme_of(self, entry: &Self) -> Self {
        self.other_scheme().filter(|other| entry.same_origin(other)).unwrap_or(self)
    }

    /// Whether both are of the same site: scheme, host and port are equal.
    pub fn same_origin(&self, other: &Self) -> bool {
        // As the standard has it for these schemes, without making an origin of each.
        let (one, other) = (&self.0, &other.0);
        one.scheme() == other.scheme()
            && one.host_str() == other.host_str()
            && one.port_or_known_default() == other.port_or_known_default()
    }

    /// The address as text, normalised.
    pub fn as_str(&self) -> &str {
        self.0.as_str()
    }

    /// The address in its parts.
    pub fn as_url(&self) -> &Url {
        &self.0
    }

    /// The host without port, in small letters.
    pub fn host(&self) -> &str {
        self.0.host_str().unwrap_or_default()
    }

    /// The address of a file in a folder that is published here, by its path in it. `None` when no address says it.
    pub fn of_file(&self, path: &str) -> Option<Self> {
        let mut url = self.0.clone();
        url.path_segments_mut().ok()?.clear().extend(path.split('/'));
        Self::parse(url.as_str()).ok()
    }

    /// Path and query, as a link from the same site may write it.
    pub fn from_root(&self) -> String {
        match self.0.query() {
            Some(query) => format!("{}?{query}", self.0.path()),
            None => self.0.path().to_owned(),
        }
    }
}

/// Percent-encoding in the one form that all others are equal to; `None` when it is in that form. O(length).
fn plainly_encoded(part: &str) -> Option<String> {
    let mut plain = String::new();
    let mut kept = 0;
    for (at, _) in part.match_indices('%') {
        let Some(digits) = part.get(at + 1..at + 3) else { break };
        let Some(byte) = u8::from_str_radix(digits, 16).ok().filter(|_| !digits.starts_with('+')) else { continue };
        let is_unreserved = byte.is_ascii_alphanumeric() || b"-._~".contains(&byte);
        if !is_unreserved && !digits.contains(|digit: char| digit.is_ascii_lowercase()) {
            continue;
        }
        plain.push_str(&part[kept..at]);
        if is_unreserved {
            plain.push(char::from(byte));
        } else {
            plain.push('%');
            plain.push_str(&digits.to_ascii_uppercase());
        }
        kept = at + 3;
    }
    (kept > 0).then(|| plain + &part[kept..])
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

    #[test]
    fn percent_encoding_has_one_form() {
        let from_root = |text: &str| Address::parse(&format!("http://a.example{text}")).unwrap().from_root();
        assert_eq!(from_root("/%7euser/%61b%2fc?q=%c3%a9%41&x=%"), "/~user/ab%2Fc?q=%C3%A9A&x=%");
        assert_eq!(from_root("/é"), from_root("/%c3%a9"));
        assert_eq!(from_root("/%+1%é%2"), from_root("/%+1%é%2"));
    }

    #[test]
    fn the_other_scheme_is_that_of_the_same_host_without_a_port() {
        let other = |text: &str| Address::parse(text).unwrap().other_scheme().map(|address| address.to_string());
        assert_eq!(other("http://a.example:80/p?q"), Some("https://a.example/p?q".into()));
        assert_eq!(other("https://a.example/p"), Some("http://a.example/p".into()));
        assert_eq!(other("http://127.0.0.1:4871/p"), None);
    }
}
