//! Bringing back what was passed.

use actix_web::{HttpResponse, delete, web};
use strelm_core::site::PageId;
use strelm_store::{SiteId, passed};

use crate::api::{ApiError, Problem, State};

#[utoipa::path(operation_id = "openings_bring_back", responses((status = 204), (status = 404, body = Problem)))]
#[delete("/sites/{site}/passed/{source}/{target}")]
pub async fn bring_back(state: web::Data<State>, path: web::Path<(i32, u32, u32)>) -> Result<HttpResponse, ApiError> {
    let (site, source, target) = path.into_inner();
    state.site(site).await?;
    passed::remove(&state.pool, SiteId(site), PageId(source), PageId(target)).await?;
    Ok(HttpResponse::NoContent().finish())
}
