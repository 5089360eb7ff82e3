//! What every request and every answer passes: changes come from our own pages only, and pages load from here only.

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{HOST, HeaderName, HeaderValue, ORIGIN};
use actix_web::http::uri::Authority;
use actix_web::middleware::Next;
use actix_web::{Error, HttpMessage, HttpResponse};
use tracing_actix_web::RequestId;

use super::Problem;

const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; \
    connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

const HEADERS: [(&str, &str); 5] = [
    ("content-security-policy", POLICY),
    ("x-content-type-options", "nosniff"),
    ("referrer-policy", "no-referrer"),
    ("cross-origin-opener-policy", "same-origin"),
    ("cross-origin-resource-policy", "same-origin"),
];

/// Middleware for `actix_web::middleware::from_fn`.
///
/// # Errors
/// Those of the inner service.
pub async fn guard(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let id = request.extensions().get::<RequestId>().map(ToString::to_string);
    let mut response = if is_own(&request) {
        next.call(request).await?.map_into_boxed_body()
    } else {
        let message = "This request does not come from Strelm's own pages and was refused.".to_owned();
        request.into_response(HttpResponse::Forbidden().json(Problem { message })).map_into_boxed_body()
    };
    // By this number whoever runs Strelm finds the request in the log.
    if let Some(id) = id.and_then(|id| HeaderValue::try_from(id).ok()) {
        response.headers_mut().insert(HeaderName::from_static("x-request-id"), id);
    }
    for (name, value) in HEADERS {
        let (name, value) = (HeaderName::from_static(name), HeaderValue::from_static(value));
        if !response.headers().contains_key(&name) {
            response.headers_mut().insert(name, value);
        }
    }
    Ok(response)
}

/// A server on loopback answers to loopback names only, so that no foreign name can be pointed at it; and a change
/// that names its origin must come from this very server.
fn is_own(request: &ServiceRequest) -> bool {
    let text = |name: &HeaderName| request.headers().get(name).and_then(|value| value.to_str().ok());
    let Some(host) = text(&HOST).or_else(|| request.uri().authority().map(|a| a.as_str())) else { return false };
    if !is_loopback(host) {
        return false;
    }
    let changes = !matches!(*request.method(), Method::GET | Method::HEAD | Method::OPTIONS);
    match text(&ORIGIN) {
        Some(origin) if changes => {
            origin.strip_prefix("http://").is_some_and(|origin| origin.eq_ignore_ascii_case(host))
        }
        // A browser says where a request comes from even where it names no origin.
        None if changes => text(&HeaderName::from_static("sec-fetch-site")).is_none_or(|from| from == "same-origin"),
        _ => true,
    }
}

/// Whether a host, with its port or without, is a name of this very machine. IPv6 addresses stand in brackets.
fn is_loopback(host: &str) -> bool {
    let Ok(authority) = host.parse::<Authority>() else { return false };
    let name = authority.host();
    // Nothing else is in it, such as a user's name or what comes behind the brackets.
    let rest = host.strip_prefix(name).map(|rest| rest.strip_prefix(':').unwrap_or(rest));
    let is_all = rest.is_some_and(|rest| rest.bytes().all(|byte| byte.is_ascii_digit()));
    is_all && ["127.0.0.1", "localhost", "[::1]"].iter().any(|known| name.eq_ignore_ascii_case(known))
}
