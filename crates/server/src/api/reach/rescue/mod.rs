//! The rescue planner: looks for the fewest edits while the editor waits, and tells of each better plan.

mod outcome;
mod planner;
mod rows;
mod teller;
mod wish;

use std::convert::Infallible;
use std::sync::Arc;

use actix_web::http::header::{CACHE_CONTROL, ContentEncoding};
use actix_web::{HttpResponse, post, web};
use futures::StreamExt;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;

use self::outcome::Outcome;
use self::planner::Planner;
use self::rows::{RescueNews, RescuePlan};
use self::teller::Teller;
use self::wish::RescueWish;
use crate::api::{ApiError, Problem, State};

/// Lines that wait for whoever reads slowly; better plans are left out meanwhile, the last one is not.
const MOST_WAITING: usize = 4;

/// Each line is a [`RescueNews`] as JSON; whoever goes away stops it. O(openings of the pages to be helped), and then as long
/// as is asked for at most.
#[utoipa::path(operation_id = "reach_rescue", responses(
    (status = 200, content_type = "application/x-ndjson", body = RescueNews),
    (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)
))]
#[post("/sites/{site}/reach/rescue")]
pub async fn rescue(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<RescueWish>,
) -> Result<HttpResponse, ApiError> {
    let wish = wish.into_inner().checked()?;
    let live = state.whole_site(*path).await?;
    let turns = Arc::clone(&state.plans);
    let (news, lines) = mpsc::channel(MOST_WAITING);
    tokio::spawn(async move {
        let Ok(_turn) = turns.acquire_owned().await else { return };
        let teller = Teller(news);
        let planned = tokio::task::spawn_blocking(move || {
            let failed = plan(&mut Planner::new(live, wish, teller.clone())).err();
            failed.map(|error| teller.tell(&RescueNews::Failed(Problem { message: error.to_string() })))
        });
        if let Err(error) = planned.await {
            // The answer ends without its last line, by which whoever asked knows.
            tracing::error!(%error, "a rescue cannot be planned");
        }
    });
    Ok(HttpResponse::Ok()
        .content_type("application/x-ndjson")
        .insert_header((CACHE_CONTROL, "no-store"))
        .insert_header(ContentEncoding::Identity)
        .streaming(ReceiverStream::new(lines).map(Ok::<_, Infallible>)))
}

/// Plans, and tells of each better plan; at last of what it leaves and what it would change.
fn plan(planner: &mut Planner) -> Result<(), ApiError> {
    planner.look_up();
    if !planner.teller.is_heard() {
        return Ok(());
    }
    let best = planner.best();
    let outcome = Outcome::of(planner, &best);
    planner.teller.tell(&RescueNews::Plan(Box::new(RescuePlan {
        is_final: true,
        is_best: best.plan.is_best || best.plan.least_edited == best.plan.worth.edited,
        least_edited: Some(best.plan.least_edited),
        left_count: best.plan.left.len(),
        left: outcome.left(planner)?,
        ..planner.told(&best.chosen, best.plan.worth)?
    })));
    if planner.teller.is_heard() {
        planner.teller.tell(&RescueNews::Effect(Outcome::effect(planner, &best)));
    }
    Ok(())
}
