//! Withdrawing what was handed over: what was not seen on the site yet is in the tray again.

use actix_web::{HttpResponse, post, web};
use strelm_store::SiteId;
use strelm_store::release::{self, ReleaseId};

use crate::api::{ApiError, Problem, State};

/// Withdraws what was handed over and is not on the site.
#[utoipa::path(operation_id = "releases_withdraw", responses((status = 204), (status = 409, body = Problem)))]
#[post("/sites/{site}/releases/{release}/withdraw")]
pub async fn withdraw(state: web::Data<State>, path: web::Path<(i32, i64)>) -> Result<HttpResponse, ApiError> {
    let (site, release) = path.into_inner();
    state.known(site).await?;
    let withdrawn = release::withdraw(&state.pool, SiteId(site), ReleaseId(release)).await?;
    withdrawn.ok_or_else(|| {
        ApiError::Conflict(
            "Nothing of this release is waiting to be put in any more. Look at it in History.".to_owned(),
        )
    })?;
    Ok(HttpResponse::NoContent().finish())
}
