//! Adding an entry page: where readers are said to start hardly anything could be reached.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;
use strelm_store::{SiteId, site};
use utoipa::ToSchema;

use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// A page on which readers start.
#[derive(Debug, Deserialize, ToSchema)]
pub struct StartAt {
    /// A page of the site.
    page: u32,
}

/// Adds a page to those on which readers start.
#[utoipa::path(operation_id = "sites_start_at", responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/sites/{site}/entries")]
pub async fn start_at(
    state: web::Data<State>,
    path: web::Path<i32>,
    start: web::Json<StartAt>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let page = start.page;
    let address = live.ask(move |model: &Model| page_of(model, page).map(|page| page.address.clone())).await??;
    let added = site::add_entry(&state.pool, SiteId(*path), &address).await?;
    added.ok_or_else(|| ApiError::Conflict("Readers start there already.".to_owned()))?;
    live.catch_up(&state.pool).await?;
    Ok(HttpResponse::NoContent().finish())
}
