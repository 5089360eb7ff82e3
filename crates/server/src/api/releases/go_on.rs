//! Letting an interrupted release go on.

use actix_web::{HttpResponse, post, web};
use strelm_store::SiteId;
use strelm_store::release::ReleaseId;

use crate::api::{ApiError, Problem, State};

/// Goes on with an interrupted release.
#[utoipa::path(operation_id = "releases_go_on", responses((status = 202), (status = 409, body = Problem)))]
#[post("/sites/{site}/releases/{release}/go-on")]
pub async fn go_on(state: web::Data<State>, path: web::Path<(i32, i64)>) -> Result<HttpResponse, ApiError> {
    let (site, release) = path.into_inner();
    state.known(site).await?;
    strelm_work::order_going_on(&state.pool, SiteId(site), ReleaseId(release)).await?;
    Ok(HttpResponse::Accepted().finish())
}
