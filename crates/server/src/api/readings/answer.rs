//! The answer to a reading that did not find too much of the site: whether that is to be taken off.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;
use strelm_store::SiteId;
use strelm_store::reading::{self, ReadingId};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};

/// What is to become of pages that were not found any more.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LostPages {
    /// Whether they are taken off the site; if not, all of them are kept as they were.
    take_off: bool,
}

/// Answers the question that a reading asks before it takes many pages off.
#[utoipa::path(operation_id = "readings_answer", responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/sites/{site}/readings/{reading}/lost-pages")]
pub async fn answer(
    state: web::Data<State>,
    path: web::Path<(i32, i64)>,
    lost: web::Json<LostPages>,
) -> Result<HttpResponse, ApiError> {
    let (site, reading) = path.into_inner();
    state.known(site).await?;
    let (site, reading) = (SiteId(site), ReadingId(reading));
    match lost.take_off {
        true => drop(strelm_work::order_taking_off(&state.pool, site, reading).await?),
        false => {
            let kept = reading::answer_keep(&state.pool, site, reading).await?;
            kept.ok_or_else(|| ApiError::Conflict("This reading asks nothing any more.".to_owned()))?;
        }
    }
    Ok(HttpResponse::NoContent().finish())
}
