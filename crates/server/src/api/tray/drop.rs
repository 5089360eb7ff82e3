//! Dropping a link from the tray.

use actix_web::{HttpResponse, delete, web};
use strelm_core::site::ChangeId;
use strelm_store::{SiteId, taken};

use crate::api::{ApiError, Problem, State};

#[utoipa::path(operation_id = "tray_drop", responses((status = 204), (status = 409, body = Problem)))]
#[delete("/sites/{site}/taken/{change}")]
pub async fn drop_link(state: web::Data<State>, path: web::Path<(i32, i64)>) -> Result<HttpResponse, ApiError> {
    let (site, change) = path.into_inner();
    state.site(site).await?;
    let dropped = taken::drop_from_tray(&state.pool, SiteId(site), ChangeId(change)).await?;
    if dropped.is_none() {
        return Err(ApiError::Conflict(
            "This link is not in the tray any more: it was dropped or released.".to_owned(),
        ));
    }
    Ok(HttpResponse::NoContent().finish())
}
