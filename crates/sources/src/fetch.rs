//! Getting one address of a site, within limits, and never leaving the site.

use std::io::Read;
use std::time::{Duration, SystemTime};

use flate2::read::GzDecoder;
use futures::StreamExt;
use reqwest::StatusCode;
use reqwest::header::{
    CONTENT_TYPE, ETAG, HeaderMap, HeaderName, IF_MODIFIED_SINCE, IF_NONE_MATCH, LAST_MODIFIED, LINK, LOCATION,
    RETRY_AFTER,
};
use strelm_core::document::encoding::{decode, label_in};
use strelm_core::site::{Address, Destination, Validators};
use thiserror::Error;

use crate::client::{Blocked, Client};

/// How large an answer may be, how long it may take, and how often it may send on.
#[derive(Debug, Clone, Copy)]
pub struct FetchLimits {
    pub most_bytes: usize,
    pub most_redirects: usize,
}

impl Default for FetchLimits {
    fn default() -> Self {
        Self { most_bytes: 8 * 1024 * 1024, most_redirects: 5 }
    }
}

/// What an address gave.
#[derive(Debug, Clone)]
pub struct Fetched {
    /// Where the answer came from, after redirects.
    pub address: Address,
    /// Addresses that sent on to the next one, the first is the one asked for.
    pub redirects: Vec<Address>,
    pub media_type: String,
    /// The encoding that the site says the body has.
    pub encoding: Option<String>,
    pub body: Body,
    /// What the site says of this version.
    pub validators: Validators,
    /// The editing interface that the headers name, as it is written there.
    pub micropub: Option<String>,
}

fn validators_of(headers: &HeaderMap) -> Validators {
    let text = |name: HeaderName| headers.get(name).and_then(|value| value.to_str().ok()).map(str::to_owned);
    Validators { etag: text(ETAG), last_modified: text(LAST_MODIFIED) }
}

/// What came: a page, or something else of which the kind is known.
#[derive(Debug, Clone)]
pub enum Body {
    Bytes(Vec<u8>),
    /// Not wanted by its media type, and not read.
    Unread,
    /// The site says that it is the version that the validators name.
    Unchanged,
}

impl Fetched {
    /// Whether it is an HTML page.
    pub fn is_html(&self) -> bool {
        matches!(self.media_type.as_str(), "text/html" | "application/xhtml+xml")
    }

    /// The body as text, whatever its encoding; what cannot be read is replaced.
    pub fn text(self) -> String {
        match self.body {
            Body::Bytes(bytes) => decode(bytes, self.encoding.as_deref()).text,
            Body::Unread | Body::Unchanged => String::new(),
        }
    }

    /// As [`Fetched::text`], of a body that is packed with gzip or not. At most `most` bytes are unpacked.
    pub fn unpacked_text(self, most: usize) -> String {
        let Body::Bytes(bytes) = &self.body else { return String::new() };
        if !bytes.starts_with(&[0x1f, 0x8b]) {
            return self.text();
        }
        let mut unpacked = Vec::new();
        // What is damaged or too long is read as far as it goes.
        let _ = GzDecoder::new(bytes.as_slice()).take(most as u64).read_to_end(&mut unpacked);
        decode(unpacked, None).text
    }
}

/// Why nothing came.
#[derive(Debug, Error)]
pub enum FetchError {
    #[error("the site cannot be reached: {0}")]
    Unreachable(String),
    #[error("the site answers with status {status}")]
    Status {
        status: StatusCode,
        /// How long the site asks to wait.
        retry_after: Option<Duration>,
    },
    #[error(transparent)]
    Blocked(#[from] Blocked),
    #[error("the address leads away from the site, to {0}")]
    LeadsAway(Address),
    #[error("there are more than {0} redirects in a row")]
    TooManyRedirects(usize),
    #[error("the answer is larger than {0} bytes")]
    TooLarge(usize),
    #[error("the answer sends on to something that is no address")]
    BadRedirect,
}

/// Gets `address`, following redirects on the same site. The body is read only when `wanted` says so of the media
/// type.
///
/// # Errors
/// [`FetchError`]; an answer beyond the limits is given up, not cut.
pub async fn fetch(
    client: &Client,
    address: &Address,
    limits: FetchLimits,
    wanted: impl Fn(&str) -> bool,
) -> Result<Fetched, FetchError> {
    fetch_if_changed(client, address, |_| None, limits, wanted).await
}

/// [`fetch`], but of a version that is known nothing is sent: [`Body::Unchanged`]. `known` gives what the site said of the
/// version of an address that is known, also of one that a redirect leads to.
///
/// # Errors
/// As [`fetch`].
pub async fn fetch_if_changed(
    client: &Client,
    address: &Address,
    known: impl Fn(&Address) -> Option<Validators>,
    limits: FetchLimits,
    wanted: impl Fn(&str) -> bool,
) -> Result<Fetched, FetchError> {
    let mut here = address.clone();
    let mut redirects = Vec::new();
    loop {
        let mut request = client.get(here.as_url())?;
        let of_here = known(&here).unwrap_or_default();
        request = of_here.etag.iter().fold(request, |request, tag| request.header(IF_NONE_MATCH, tag));
        request = of_here.last_modified.iter().fold(request, |request, at| request.header(IF_MODIFIED_SINCE, at));
        let answer = request.send().await.map_err(|error| unreachable(&error))?;
        let status = answer.status();
        let validators = validators_of(answer.headers());
        let micropub = linked_in(answer.headers(), "micropub");
        if status == StatusCode::NOT_MODIFIED && of_here != Validators::default() {
            let media_type = String::new();
            return Ok(Fetched {
                address: here,
                redirects,
                media_type,
                encoding: None,
                body: Body::Unchanged,
                validators,
                micropub: None,
            });
        }
        if status.is_redirection() {
            let to = answer.headers().get(LOCATION).and_then(|to| to.to_str().ok()).ok_or(FetchError::BadRedirect)?;
            let Destination::Page { address: next, .. } = here.follow(to) else { return Err(FetchError::BadRedirect) };
            if !next.same_origin(address) {
                return Err(FetchError::LeadsAway(next));
            }
            redirects.push(std::mem::replace(&mut here, next));
            if redirects.len() > limits.most_redirects {
                return Err(FetchError::TooManyRedirects(limits.most_redirects));
            }
            continue;
        }
        if !status.is_success() {
            return Err(FetchError::Status { status, retry_after: retry_after(answer.headers()) });
        }
        let kind = answer.headers().get(CONTENT_TYPE).and_then(|kind| kind.to_str().ok()).unwrap_or_default();
        let encoding = label_in(kind).map(str::to_owned);
        let media_type = kind.split(';').next().unwrap_or_default().trim().to_ascii_lowercase();
        let body = if wanted(&media_type) { Body::Bytes(read(answer, limits.most_bytes).await?) } else { Body::Unread };
        return Ok(Fetched { address: here, redirects, media_type, encoding, body, validators, micropub });
    }
}

/// What `Link` headers name with this relation, after RFC 8288; of several the first.
fn linked_in(headers: &HeaderMap, rel: &str) -> Option<String> {
    let values = headers.get_all(LINK).iter().filter_map(|value| value.to_str().ok());
    // A comma within an address stands between its angle brackets.
    let links = values.flat_map(|value| value.split('<').skip(1)).filter_map(|link| link.split_once('>'));
    let names = |parameters: &str| {
        let of_link = parameters.split(',').next().unwrap_or_default();
        of_link.split(';').filter_map(|parameter| parameter.split_once('=')).any(|(name, value)| {
            let mut tokens = value.trim().trim_matches('"').split_ascii_whitespace();
            name.trim().eq_ignore_ascii_case("rel") && tokens.any(|token| token.eq_ignore_ascii_case(rel))
        })
    };
    links.into_iter().find(|(_, parameters)| names(parameters)).map(|(href, _)| href.trim().to_owned())
}

/// The whole body of an answer, or an error as soon as it is larger than `most` bytes.
pub(crate) async fn read(answer: reqwest::Response, most: usize) -> Result<Vec<u8>, FetchError> {
    let mut bytes = Vec::new();
    let mut chunks = answer.bytes_stream();
    while let Some(chunk) = chunks.next().await {
        let chunk = chunk.map_err(|error| unreachable(&error))?;
        if bytes.len() + chunk.len() > most {
            return Err(FetchError::TooLarge(most));
        }
        bytes.extend_from_slice(&chunk);
    }
    Ok(bytes)
}

/// How long an answer asks to wait: seconds, or a date.
pub(crate) fn retry_after(headers: &HeaderMap) -> Option<Duration> {
    let text = headers.get(RETRY_AFTER)?.to_str().ok()?.trim();
    if let Ok(seconds) = text.parse() {
        return Some(Duration::from_secs(seconds));
    }
    let until = httpdate::parse_http_date(text).ok()?;
    Some(until.duration_since(SystemTime::now()).unwrap_or_default())
}

/// What kept a request from being answered: the guard, or the network.
fn unreachable(error: &reqwest::Error) -> FetchError {
    let mut source: Option<&(dyn std::error::Error + 'static)> = Some(error);
    while let Some(here) = source {
        if let Some(blocked) = here.downcast_ref::<Blocked>() {
            return FetchError::Blocked(blocked.clone());
        }
        source = here.source();
    }
    FetchError::Unreachable(plain(error))
}

/// A client's error without the address, which whoever reads the message knows.
pub(crate) fn plain(error: &reqwest::Error) -> String {
    let mut source: &dyn std::error::Error = error;
    while let Some(deeper) = source.source() {
        source = deeper;
    }
    if error.is_timeout() { "no answer in time".to_owned() } else { source.to_string() }
}

#[cfg(test)]
mod tests {
    use std::io::Write;

    use super::*;

    #[test]
    fn a_header_names_the_editing_interface() {
        let named = |value: &str| {
            let mut headers = HeaderMap::new();
            headers.insert(LINK, value.parse().unwrap());
            linked_in(&headers, "micropub")
        };
        assert_eq!(named("</micropub>; rel=micropub").as_deref(), Some("/micropub"));
        let several = "<https://a.example/hub>; rel=\"hub\", <https://a.example/m?a,b>; rel=\"self micropub\"; x=y";
        assert_eq!(named(several).as_deref(), Some("https://a.example/m?a,b"));
        assert_eq!(named("</a>; rel=next, </b>; title=micropub"), None);
    }

    #[test]
    fn packed_bodies_are_unpacked_as_far_as_allowed() {
        let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::best());
        packer.write_all(&vec![b'x'; 1_000_000]).unwrap();
        let fetched = |bytes: Vec<u8>| Fetched {
            address: Address::parse("http://a.example/sitemap.xml.gz").unwrap(),
            redirects: Vec::new(),
            media_type: String::new(),
            encoding: None,
            body: Body::Bytes(bytes),
            validators: Validators::default(),
            micropub: None,
        };
        let packed = packer.finish().unwrap();
        assert_eq!(fetched(packed.clone()).unpacked_text(2_000_000).len(), 1_000_000);
        assert_eq!(fetched(packed).unpacked_text(1000).len(), 1000);
        assert_eq!(fetched(b"plain".to_vec()).unpacked_text(1000), "plain");
    }
}
