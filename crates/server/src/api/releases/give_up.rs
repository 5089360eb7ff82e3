//! Ending an interrupted release: what has not gone out is in the tray again.

use actix_web::{HttpResponse, post, web};
use strelm_store::SiteId;
use strelm_store::release::{self, ReleaseId};

use crate::api::{ApiError, Problem, State};

/// Ends an interrupted release; what is not out goes back into the tray.
#[utoipa::path(operation_id = "releases_give_up", responses((status = 204), (status = 409, body = Problem)))]
#[post("/sites/{site}/releases/{release}/give-up")]
pub async fn give_up(state: web::Data<State>, path: web::Path<(i32, i64)>) -> Result<HttpResponse, ApiError> {
    let (site, release) = path.into_inner();
    state.known(site).await?;
    let ended = release::give_up(&state.pool, SiteId(site), ReleaseId(release)).await?;
    ended.ok_or_else(|| {
        ApiError::Conflict("This release is not interrupted any more. Look at it in History.".to_owned())
    })?;
    Ok(HttpResponse::NoContent().finish())
}
