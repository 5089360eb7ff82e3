//! Releasing the tray, or handing it over where the site cannot be written to.

use actix_web::{post, web};
use serde::Serialize;
use strelm_store::{SiteId, site};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};

/// The release that begins.
#[derive(Debug, Serialize, ToSchema)]
pub struct Started {
    pub release: i64,
}

/// Releases what is in the tray, or hands it over where the site is not written to.
#[utoipa::path(operation_id = "releases_start", responses((status = 200, body = Started), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/sites/{site}/releases")]
pub async fn start(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Started>, ApiError> {
    let site = site::get(&state.pool, SiteId(*path)).await?;
    let site = site.ok_or(ApiError::NotFound("There is no such site."))?;
    let (release, _) = strelm_work::order_release(&state.pool, site.id, site.way()).await?;
    Ok(web::Json(Started { release: release.0 }))
}
