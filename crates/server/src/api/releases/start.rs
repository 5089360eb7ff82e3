//! Releasing the tray.

use actix_web::{post, web};
use serde::Serialize;
use strelm_store::{SiteId, site};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};
use crate::jobs;

#[derive(Debug, Serialize, ToSchema)]
pub struct Started {
    pub release: i64,
}

#[utoipa::path(operation_id = "releases_start", responses((status = 200, body = Started), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/sites/{site}/releases")]
pub async fn start(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Started>, ApiError> {
    state.site(*path).await?;
    let site = site::get(&state.pool, SiteId(*path)).await?;
    if site.is_none_or(|site| !site.is_editable()) {
        let message = "This site has no editing interface, so nothing can be released. Set one up in Setup.";
        return Err(ApiError::Unusable(message.to_owned()));
    }
    let (release, _) = jobs::order_release(&state.pool, SiteId(*path)).await?;
    Ok(web::Json(Started { release: release.0 }))
}
