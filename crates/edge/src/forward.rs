//! From what a reader asks for to what he gets.

use std::io;
use std::sync::Arc;
use std::time::Duration;

use actix_web::body::{BoxBody, SizedStream};
use actix_web::http::StatusCode;
use actix_web::web::{Data, Payload};
use actix_web::{HttpRequest, HttpResponse, HttpResponseBuilder};
use bytes::Bytes;
use futures::{Stream, TryStreamExt};
use reqwest::header::{
    ACCEPT_RANGES, CACHE_CONTROL, CONNECTION, CONTENT_DISPOSITION, CONTENT_ENCODING, CONTENT_LENGTH, CONTENT_TYPE,
    ETAG, HOST, HeaderMap, HeaderName, HeaderValue, LAST_MODIFIED, LOCATION, VARY,
};
use strelm_core::document::encoding::label_in;
use strelm_core::passing::AS_IT_IS;
use strelm_core::site::Address;
use url::Url;

use crate::ask;
use crate::body::{Altered, altered};
use crate::coding::Coding;
use crate::conditions::{ask_for_version, tag_out};
use crate::learner::Learner;
use crate::plan::{Plan, hash_of};
use crate::plans::Plans;
use crate::watch::watched;

/// Nobody waits longer for what is to be put into a page.
const PLAN_WITHIN: Duration = Duration::from_millis(300);

/// Of a page's bytes, which are others now.
const OF_BYTES: [&str; 5] = ["content-md5", "content-digest", "repr-digest", "digest", "signature"];

/// What all requests share.
pub struct Edge {
    pub upstream: Url,
    /// Instead of the name that the reader asked for.
    pub host: Option<HeaderValue>,
    pub plans: Arc<Plans>,
    pub learner: Learner,
    /// Whether nothing is put into any page.
    pub is_plain: bool,
}

/// One client for each thread of the server.
pub struct Http(pub reqwest::Client);

/// Asks the site, and passes on what it answers.
pub async fn forward(request: HttpRequest, body: Payload, edge: Data<Edge>, http: Data<Http>) -> HttpResponse {
    if ask::is_going_round(&request) {
        return trouble(StatusCode::LOOP_DETECTED, "This edge is its own upstream.");
    }
    if request.headers().contains_key("upgrade") {
        return trouble(StatusCode::NOT_IMPLEMENTED, "This edge carries no upgraded connections.");
    }
    let mut headers = ask::headers(&request);
    if let Some(host) = &edge.host {
        headers.insert(HOST, host.clone());
    }
    let page = page_of(&request, &edge);
    let plan = match &page {
        Some((address, referrer)) => edge.plans.at(address, referrer.as_ref(), PLAN_WITHIN).await,
        None => None,
    };
    if page.is_some() {
        ask_for_version(&mut headers, plan.as_ref().and_then(|plan| plan.tag.as_deref()));
    }
    let Some(asked) = ask::request(&http.0, &edge.upstream, &request, headers, body) else {
        return trouble(StatusCode::BAD_REQUEST, "This cannot be asked of the site.");
    };
    let answer = match asked.send().await {
        Ok(answer) => answer,
        Err(error) => {
            tracing::warn!(%error, "the site does not answer");
            let status = if error.is_timeout() { StatusCode::GATEWAY_TIMEOUT } else { StatusCode::BAD_GATEWAY };
            return trouble(status, "The site does not answer at the moment. Try again in a moment.");
        }
    };
    let mut headers = ask::forwarded(
        answer.headers().iter().map(|(name, value)| (name.as_str(), value.as_bytes())),
        answer.headers().get_all(CONNECTION).iter().map(HeaderValue::as_bytes),
    );
    lead_here(&mut headers, &edge.upstream);
    let status = StatusCode::from_u16(answer.status().as_u16()).unwrap_or(StatusCode::BAD_GATEWAY);
    let is_head = request.method() == actix_web::http::Method::HEAD;
    let (address, plan) = match (page, plan) {
        (Some((address, _)), Some(plan)) => (address, plan),
        _ => return as_it_comes(status, &headers, answer, is_head),
    };
    if status == StatusCode::NOT_MODIFIED {
        mark_version(&mut headers, plan.tag.as_deref());
        return as_it_comes(status, &headers, answer, is_head);
    }
    match may_be_altered(status, &headers) {
        Some(coding) => pass_page(&edge, &request, Page { address, plan, coding }, headers, answer),
        None => as_it_comes(status, &headers, answer, is_head),
    }
}

/// A page on its way.
struct Page {
    address: Address,
    plan: Arc<Plan>,
    coding: Coding,
}

/// Passes a page on with what comes to it, and remembers it where it is not as it was known.
fn pass_page(
    edge: &Edge,
    request: &HttpRequest,
    page: Page,
    mut headers: HeaderMap,
    answer: reqwest::Response,
) -> HttpResponse {
    let Page { address, plan, coding } = page;
    let is_head = request.method() == actix_web::http::Method::HEAD;
    let learns = !is_head && !plan.is_for_referrer && edge.learner.has_room() && may_be_kept(request, &headers);
    let label = header(&headers, &CONTENT_TYPE).and_then(label_in).map(str::to_owned);
    let size = header(&headers, &CONTENT_LENGTH).and_then(|size| size.parse().ok());
    if !plan.edit.is_empty() {
        alter_headers(&mut headers, &plan);
    }
    if is_head || (plan.edit.is_empty() && !learns) {
        return as_it_comes(StatusCode::OK, &headers, answer, is_head);
    }
    let (learner, edit) = (edge.learner.clone(), Arc::clone(&plan.edit));
    let on_end = {
        let label = label.clone();
        move |page: Vec<u8>| {
            if !plan.fits(hash_of(&page)) {
                learner.learn(address, page, label);
            }
        }
    };
    let upstream = Box::pin(answer.bytes_stream().map_err(io::Error::other));
    if edit.is_empty() {
        // Nothing is put into it: it goes on as it is packed, and is looked at beside.
        return respond(StatusCode::OK, &headers, size, watched(upstream, coding, on_end));
    }
    let copies = learns.then(|| size.and_then(|size| usize::try_from(size).ok()).unwrap_or(0));
    respond(StatusCode::OK, &headers, None, altered(upstream, Altered { edit, coding, label, copies }, on_end))
}

/// The page that is asked for, if it may be one, and from which its reader comes.
fn page_of(request: &HttpRequest, edge: &Edge) -> Option<(Address, Option<Address>)> {
    let is_read = matches!(*request.method(), actix_web::http::Method::GET | actix_web::http::Method::HEAD);
    if edge.is_plain || !is_read || request.headers().contains_key(AS_IT_IS) {
        return None;
    }
    let path = request.uri().path_and_query().map_or("/", |path| path.as_str());
    let referrer = request.headers().get("referer").and_then(|from| from.to_str().ok());
    let referrer = referrer.and_then(|from| Url::parse(from).ok()).filter(|from| is_this_host(request, from));
    let came_from = referrer.and_then(|from| edge.plans.address(&from[url::Position::BeforePath..]));
    Some((edge.plans.address(path)?, came_from))
}

fn is_this_host(request: &HttpRequest, from: &Url) -> bool {
    let host = request.headers().get("host").and_then(|host| host.to_str().ok());
    host == Some(&from[url::Position::BeforeHost..url::Position::AfterPort])
}

/// How a page is packed that may be altered.
fn may_be_altered(status: StatusCode, headers: &HeaderMap) -> Option<Coding> {
    let media = header(headers, &CONTENT_TYPE)?.split(';').next()?.trim().to_ascii_lowercase();
    let is_attached = header(headers, &CONTENT_DISPOSITION)
        .is_some_and(|how| how.trim_start().to_ascii_lowercase().starts_with("attachment"));
    let is_page = status == StatusCode::OK && media == "text/html" && !is_attached && !says(headers, "no-transform");
    is_page.then(|| Coding::of(header(headers, &CONTENT_ENCODING)))?
}

/// Whether a page may be remembered after it passed.
fn may_be_kept(request: &HttpRequest, headers: &HeaderMap) -> bool {
    !request.headers().contains_key("authorization") && !says(headers, "private") && !says(headers, "no-store")
}

fn says(headers: &HeaderMap, directive: &str) -> bool {
    let values = headers.get_all(CACHE_CONTROL).iter().filter_map(|value| value.to_str().ok());
    values.flat_map(|value| value.split(',')).any(|said| said.trim().eq_ignore_ascii_case(directive))
}

fn header<'h>(headers: &'h HeaderMap, name: &HeaderName) -> Option<&'h str> {
    headers.get(name)?.to_str().ok()
}

/// What is said of the page as the site has it holds no more.
fn alter_headers(headers: &mut HeaderMap, plan: &Plan) {
    mark_version(headers, plan.tag.as_deref());
    let _ = (headers.remove(CONTENT_LENGTH), headers.remove(LAST_MODIFIED), headers.remove(ACCEPT_RANGES));
    for name in OF_BYTES {
        headers.remove(name);
    }
    if !plan.back.is_empty() {
        headers.append(VARY, HeaderValue::from_static("Referer"));
    }
}

fn mark_version(headers: &mut HeaderMap, plan: Option<&str>) {
    let Some((tag, plan)) = header(headers, &ETAG).zip(plan) else { return };
    match tag_out(tag, plan).and_then(|tag| HeaderValue::from_str(&tag).ok()) {
        Some(tag) => drop(headers.insert(ETAG, tag)),
        None => drop(headers.remove(ETAG)),
    }
}

/// The site leads elsewhere on itself: a reader stays with this edge.
fn lead_here(headers: &mut HeaderMap, upstream: &Url) {
    let Some(location) = header(headers, &LOCATION).and_then(|location| Url::parse(location).ok()) else { return };
    if location.origin() == upstream.origin()
        && let Ok(path) = HeaderValue::from_str(&location[url::Position::BeforePath..])
    {
        headers.insert(LOCATION, path);
    }
}

fn as_it_comes(status: StatusCode, headers: &HeaderMap, answer: reqwest::Response, is_head: bool) -> HttpResponse {
    let size = header(headers, &CONTENT_LENGTH).and_then(|size| size.parse().ok());
    if is_head || status == StatusCode::NOT_MODIFIED {
        return respond(status, headers, size, futures::stream::empty::<io::Result<Bytes>>());
    }
    respond(status, headers, size, answer.bytes_stream().map_err(io::Error::other))
}

/// The answer; `size` of its body, where it is known.
fn respond(
    status: StatusCode,
    headers: &HeaderMap,
    size: Option<u64>,
    body: impl Stream<Item = io::Result<Bytes>> + 'static,
) -> HttpResponse {
    let mut answer = HttpResponseBuilder::new(status);
    // Its size is said with the body.
    for (name, value) in headers.iter().filter(|(name, _)| **name != CONTENT_LENGTH) {
        answer.append_header((name.as_str(), value.as_bytes()));
    }
    let is_without_body =
        status.is_informational() || status == StatusCode::NO_CONTENT || status == StatusCode::NOT_MODIFIED;
    match size {
        _ if is_without_body => answer.finish(),
        Some(size) => answer.body(BoxBody::new(SizedStream::new(size, body))),
        None => answer.streaming(body),
    }
}

fn trouble(status: StatusCode, why: &'static str) -> HttpResponse {
    HttpResponse::build(status).content_type("text/plain; charset=utf-8").body(why)
}
