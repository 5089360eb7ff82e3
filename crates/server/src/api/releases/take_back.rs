//! Taking a release back.

use actix_web::{HttpResponse, post, web};
use strelm_store::SiteId;
use strelm_store::release::ReleaseId;

use crate::api::{ApiError, Problem, State};

/// Takes a release back.
#[utoipa::path(operation_id = "releases_take_back", responses((status = 202), (status = 409, body = Problem)))]
#[post("/sites/{site}/releases/{release}/take-back")]
pub async fn take_back(state: web::Data<State>, path: web::Path<(i32, i64)>) -> Result<HttpResponse, ApiError> {
    let (site, release) = path.into_inner();
    state.known(site).await?;
    strelm_work::order_taking_back(&state.pool, SiteId(site), ReleaseId(release)).await?;
    Ok(HttpResponse::Accepted().finish())
}
