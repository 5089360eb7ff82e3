//! Stopping the reading that is under way. What was read is kept, and it can go on later.

use actix_web::{HttpResponse, post, web};
use strelm_store::{SiteId, reading};

use crate::api::{ApiError, Problem, State};

/// Stops a reading after the addresses that it is at.
#[utoipa::path(operation_id = "readings_stop", responses((status = 202), (status = 409, body = Problem)))]
#[post("/sites/{site}/readings/stop")]
pub async fn stop(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    state.known(*path).await?;
    let asked = reading::ask_to_stop(&state.pool, SiteId(*path)).await?;
    asked.ok_or_else(|| ApiError::Conflict("No reading is under way.".to_owned()))?;
    Ok(HttpResponse::Accepted().finish())
}
