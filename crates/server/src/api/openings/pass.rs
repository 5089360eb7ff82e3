//! Passing an opening: no opening between these two pages is shown until it is brought back.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;
use strelm_core::site::PageId;
use strelm_store::{SiteId, passed};
use utoipa::ToSchema;

use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};

/// More of the words are not kept.
const LONGEST_ANCHOR: usize = 300;

#[derive(Debug, Deserialize, ToSchema)]
pub struct Pass {
    source: u32,
    target: u32,
    /// The words, to recognise it by.
    anchor: String,
}

#[utoipa::path(operation_id = "openings_pass", responses((status = 204), (status = 404, body = Problem)))]
#[post("/sites/{site}/passed")]
pub async fn pass(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<Pass>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    for number in [wish.source, wish.target] {
        page_of(&live.read(), number)?;
    }
    let anchor: String = wish.anchor.chars().filter(|c| *c != '\0').take(LONGEST_ANCHOR).collect();
    passed::add(&state.pool, SiteId(*path), PageId(wish.source), PageId(wish.target), &anchor).await?;
    Ok(HttpResponse::NoContent().finish())
}
