//! What is asked of the site for what a reader asks for.

use std::io;
use std::net::SocketAddr;

use actix_web::HttpRequest;
use actix_web::web::Payload;
use bytes::Bytes;
use futures::StreamExt;
use reqwest::header::{
    ACCEPT_ENCODING, CONNECTION, CONTENT_LENGTH, HOST, HeaderMap, HeaderName, HeaderValue, TRANSFER_ENCODING, VIA,
};
use reqwest::{Body, Method, RequestBuilder};
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;
use url::Url;

/// How an edge names itself to others on the way.
const NAME: &str = "1.1 strelm-edge";

/// Edges behind each other; one more asks itself.
const MOST_EDGES: usize = 4;

/// Pieces of a body that wait for the site.
const PIECES: usize = 4;

/// What is of one connection and not of the message (RFC 9110, section 7.6.1).
const OF_CONNECTION: [&str; 7] =
    ["connection", "keep-alive", "proxy-connection", "te", "trailer", "transfer-encoding", "upgrade"];

/// Headers without those of the connection.
pub fn forwarded<'h>(
    headers: impl Iterator<Item = (&'h str, &'h [u8])>,
    named: impl Iterator<Item = &'h [u8]>,
) -> HeaderMap {
    let named: Vec<String> = named
        .filter_map(|value| std::str::from_utf8(value).ok())
        .flat_map(|value| value.split(','))
        .map(|name| name.trim().to_ascii_lowercase())
        .collect();
    let mut kept = HeaderMap::new();
    for (name, value) in headers {
        let is_of_connection = OF_CONNECTION.contains(&name) || named.iter().any(|of| of == name);
        if let (false, Ok(name), Ok(value)) =
            (is_of_connection, HeaderName::from_bytes(name.as_bytes()), HeaderValue::from_bytes(value))
        {
            kept.append(name, value);
        }
    }
    kept
}

/// Whether what is asked for went through too many edges already.
pub fn is_going_round(request: &HttpRequest) -> bool {
    let via = request.headers().get_all("via").filter_map(|value| value.to_str().ok());
    via.flat_map(|value| value.split(',')).filter(|via| via.trim() == NAME).count() >= MOST_EDGES
}

/// The headers with which the site is asked.
pub fn headers(request: &HttpRequest) -> HeaderMap {
    let all = request.headers();
    let mut headers = forwarded(
        all.iter().map(|(name, value)| (name.as_str(), value.as_bytes())),
        all.get_all("connection").map(|value| value.as_bytes()),
    );
    headers.append(VIA, HeaderValue::from_static(NAME));
    accept_what_is_understood(&mut headers);
    let peer = request.peer_addr().map(|peer: SocketAddr| peer.ip().to_string());
    let host = headers.get(HOST).and_then(|host| host.to_str().ok()).map(str::to_owned);
    for (name, value) in
        [("x-forwarded-for", peer), ("x-forwarded-host", host), ("x-forwarded-proto", Some("http".into()))]
    {
        let name = HeaderName::from_static(name);
        if let Some(value) = value.and_then(|value| HeaderValue::from_str(&value).ok()) {
            match name.as_str() {
                "x-forwarded-for" => drop(headers.append(name, value)),
                // Whoever stands before the edge knows better.
                _ => drop(headers.entry(name).or_insert(value)),
            }
        }
    }
    headers
}

/// A page is only packed in ways that can be unpacked here.
fn accept_what_is_understood(headers: &mut HeaderMap) {
    let accepted: Vec<String> =
        headers.get_all(ACCEPT_ENCODING).iter().filter_map(|value| value.to_str().ok()).map(str::to_owned).collect();
    if accepted.is_empty() {
        return;
    }
    let all = accepted.join(",");
    let understood = all.split(',').map(str::trim).filter(|coding| {
        let name = coding.split(';').next().unwrap_or_default().trim().to_ascii_lowercase();
        matches!(name.as_str(), "gzip" | "x-gzip" | "br" | "identity")
    });
    let understood = understood.collect::<Vec<_>>().join(", ");
    let value = if understood.is_empty() { "identity" } else { &understood };
    if let Ok(value) = HeaderValue::from_str(value) {
        headers.insert(ACCEPT_ENCODING, value);
    }
}

/// The request to the site. A body goes on as it comes.
pub fn request(
    http: &reqwest::Client,
    upstream: &Url,
    asked: &HttpRequest,
    headers: HeaderMap,
    body: Payload,
) -> Option<RequestBuilder> {
    let method = Method::from_bytes(asked.method().as_str().as_bytes()).ok()?;
    let path = asked.uri().path_and_query().map_or("/", |path| path.as_str());
    // As it was written: nobody knows what the site makes of it.
    let url = Url::parse(&format!("{}{path}", upstream.as_str().trim_end_matches('/'))).ok()?;
    let has_body = asked.headers().contains_key("transfer-encoding")
        || asked.headers().get("content-length").is_some_and(|length| length.as_bytes() != b"0");
    let mut headers = headers;
    let _ = (headers.remove(CONNECTION), headers.remove(TRANSFER_ENCODING));
    if !has_body {
        let is_said = headers.remove(CONTENT_LENGTH).is_some();
        let asked = http.request(method, url).headers(headers);
        return Some(if is_said { asked.body("") } else { asked });
    }
    Some(http.request(method, url).headers(headers).body(passed_on(body)))
}

/// A body on its way to the site.
fn passed_on(mut body: Payload) -> Body {
    let (pieces, waiting) = mpsc::channel::<io::Result<Bytes>>(PIECES);
    actix_web::rt::spawn(async move {
        while let Some(piece) = body.next().await {
            let piece = piece.map_err(|error| io::Error::other(error.to_string()));
            let is_end = piece.is_err();
            if pieces.send(piece).await.is_err() || is_end {
                return;
            }
        }
    });
    Body::wrap_stream(ReceiverStream::new(waiting))
}

#[cfg(test)]
mod tests {
    use actix_web::test::TestRequest;

    use super::*;

    #[test]
    fn what_is_of_one_connection_stays_there() {
        let given = [("connection", "close, X-Mine"), ("x-mine", "1"), ("te", "trailers"), ("cookie", "a=1")];
        let kept = forwarded(
            given.iter().map(|(name, value)| (*name, value.as_bytes())),
            given.iter().take(1).map(|(_, value)| value.as_bytes()),
        );
        assert_eq!(kept.keys().map(HeaderName::as_str).collect::<Vec<_>>(), ["cookie"]);
    }

    #[test]
    fn the_site_is_asked_only_for_what_can_be_unpacked_here() {
        let asked = |accepts: Option<&str>| {
            let request = TestRequest::default().insert_header(("host", "sky.example"));
            let request = match accepts {
                Some(accepts) => request.insert_header(("accept-encoding", accepts)),
                None => request,
            };
            let headers = headers(&request.to_http_request());
            headers.get(ACCEPT_ENCODING).map(|value| value.to_str().unwrap().to_owned())
        };
        assert_eq!(asked(None), None);
        assert_eq!(asked(Some("zstd")).as_deref(), Some("identity"));
        assert_eq!(asked(Some("zstd, BR;q=0.9 ,gzip, *")).as_deref(), Some("BR;q=0.9, gzip"));
    }

    #[test]
    fn whoever_stands_before_the_edge_is_believed_and_named() {
        let request = TestRequest::default()
            .insert_header(("host", "inner.example"))
            .insert_header(("x-forwarded-host", "sky.example"))
            .insert_header(("x-forwarded-proto", "https"))
            .insert_header(("x-forwarded-for", "192.0.2.1"))
            .peer_addr("198.51.100.7:99".parse().unwrap());
        let headers = headers(&request.to_http_request());
        let all = |name: &str| headers.get_all(name).iter().map(|value| value.to_str().unwrap()).collect::<Vec<_>>();
        assert_eq!(all("x-forwarded-host"), ["sky.example"]);
        assert_eq!(all("x-forwarded-proto"), ["https"]);
        assert_eq!(all("x-forwarded-for"), ["192.0.2.1", "198.51.100.7"]);
        assert_eq!(all("via"), ["1.1 strelm-edge"]);
    }
}
