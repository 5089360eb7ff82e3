//! Reading a site again.

use actix_web::{HttpResponse, post, web};
use strelm_store::SiteId;

use crate::api::{ApiError, Problem, State};

/// Begins a reading; there is one at a time.
#[utoipa::path(operation_id = "readings_start", responses((status = 202), (status = 409, body = Problem)))]
#[post("/sites/{site}/readings")]
pub async fn start(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    state.known(*path).await?;
    strelm_work::order_reading(&state.pool, SiteId(*path)).await?;
    Ok(HttpResponse::Accepted().finish())
}
