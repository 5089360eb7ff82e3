//! Server-sent events: the number of a site's latest change and its kind, each time that it grows.

use std::convert::Infallible;
use std::time::Duration;

use actix_web::http::header::{CACHE_CONTROL, ContentEncoding, ContentType};
use actix_web::web::Bytes;
use actix_web::{HttpResponse, get, web};
use futures::StreamExt;
use futures::stream::{self, select};
use strelm_store::{Seq, SiteId, journal};
use tokio_stream::wrappers::{BroadcastStream, IntervalStream};

use super::Notice;
use crate::api::{ApiError, Problem, State};

/// Keeps the connection open through whatever stands between, and finds out when nobody listens any more.
const BEAT: Duration = Duration::from_secs(15);

/// Each event is `data: SEQ KIND`, without a kind where everything may have changed. The first comes at once.
#[utoipa::path(operation_id = "events_follow", responses(
    (status = 200, content_type = "text/event-stream", body = String),
    (status = 404, body = Problem)
))]
#[get("/sites/{site}/events")]
pub async fn follow(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    let site = SiteId(*path);
    let notices = state.events.subscribe();
    let now = journal::end(&state.pool, site).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    let goes_on = |notice: &Result<Notice, _>| std::future::ready(!matches!(notice, Ok(Notice::Ending)));
    let grown = BroadcastStream::new(notices).take_while(goes_on).map(Some).chain(stream::iter([None]));
    let grown = grown.filter_map(move |notice| async move {
        let Some(notice) = notice else { return Some(None) };
        let event = match notice {
            Ok(Notice::Grew(growth)) if growth.site == site => {
                Some(Ok::<_, Infallible>(event(growth.seq, growth.kind)))
            }
            Ok(Notice::Grew(_) | Notice::Ending) => None,
            // Missed notices: the browser is told to look at everything.
            Ok(Notice::Unsure) | Err(_) => Some(Ok(event(Seq(0), None))),
        };
        event.map(Some)
    });
    let beats = IntervalStream::new(tokio::time::interval(BEAT)).map(|_| Some(Ok(Bytes::from_static(b": beat\n\n"))));
    // What is empty ends the whole.
    let following =
        select(grown, beats).take_while(|event| std::future::ready(event.is_some())).filter_map(std::future::ready);
    let events = stream::iter([Ok(event(now, None))]).chain(following);
    Ok(HttpResponse::Ok()
        .content_type(ContentType(actix_web::mime::TEXT_EVENT_STREAM))
        .insert_header((CACHE_CONTROL, "no-store"))
        .insert_header(ContentEncoding::Identity)
        .streaming(events))
}

fn event(Seq(seq): Seq, kind: Option<&str>) -> Bytes {
    match kind {
        Some(kind) => Bytes::from(format!("data: {seq} {kind}\n\n")),
        None => Bytes::from(format!("data: {seq}\n\n")),
    }
}
