//! Reach: which pages a reader can get to, what each depends on, and how those that are lost come back.

pub mod chart;
pub mod equity;
pub mod flow;
pub mod hanging;
pub mod page;
pub mod rescue;

use std::sync::Arc;
use std::time::Duration;

use actix_web::HttpResponse;
use actix_web::http::header::ContentType;
use serde::Serialize;
use strelm_core::reach::{Over, Soundings, Thread};
use strelm_core::site::{Moment, PageId};
use strelm_live::{LiveSite, Model, Sounded, WholeAnswer};

use super::ApiError;
use super::pages::PageRef;

/// How long an answer waits for what is worked out in the background; small sites need less.
pub const WAIT: Duration = Duration::from_millis(200);

/// The page with a number in the graph, as far as it is still there.
fn page_ref(model: &Model, soundings: &Soundings, number: u32) -> Option<PageRef> {
    PageRef::of(model, soundings.snapshot().page(number)?.0).ok()
}

/// The page of a thread, and what it hangs on.
fn thread_pages(soundings: &Soundings, thread: &Thread) -> Option<(PageId, PageId)> {
    let (Over::Link(over) | Over::Page(over)) = thread.over;
    Some((soundings.snapshot().page(thread.page)?, soundings.snapshot().page(over)?))
}

/// An answer about the graph as a whole, for which its soundings are needed; it is worked out once after a change of what it
/// tells. The third value that `of` gets is whether they are of this moment.
///
/// # Errors
/// [`ApiError::NotReady`] while nothing was worked out yet.
async fn whole_answer<T: Serialize>(
    live: &Arc<LiveSite>,
    which: WholeAnswer,
    of: impl FnOnce(&Model, &Soundings, bool) -> T + Send + 'static,
) -> Result<HttpResponse, ApiError> {
    live.soundings(Moment::Now, WAIT).await?;
    let answer = move |model: &Model| {
        let Sounded { soundings, is_fresh } = model.sounded(Moment::Now);
        let soundings = soundings?;
        Some(model.whole_answer(which, || json(&of(model, &soundings, is_fresh))))
    };
    let Some(answer) = live.ask(answer).await? else {
        let why = "The reach of this site is being worked out. Try again in a moment.";
        return Err(ApiError::NotReady(why.to_owned()));
    };
    Ok(sent(&answer))
}

fn json(answer: &impl Serialize) -> Vec<u8> {
    serde_json::to_vec(answer).unwrap_or_default()
}

fn sent(answer: &[u8]) -> HttpResponse {
    HttpResponse::Ok().content_type(ContentType::json()).body(answer.to_vec())
}
