//! Going on with a reading that was stopped or broke off.

use actix_web::{HttpResponse, post, web};
use strelm_store::SiteId;

use crate::api::{ApiError, Problem, State};

/// Goes on with a reading that was stopped.
#[utoipa::path(operation_id = "readings_go_on", responses((status = 202), (status = 409, body = Problem)))]
#[post("/sites/{site}/readings/go-on")]
pub async fn go_on(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    state.known(*path).await?;
    strelm_work::order_reading_to_go_on(&state.pool, SiteId(*path)).await?;
    Ok(HttpResponse::Accepted().finish())
}
