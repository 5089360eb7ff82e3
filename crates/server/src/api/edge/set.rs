//! Setting what edges put into pages.

use actix_web::{HttpResponse, put, web};
use serde::Deserialize;
use strelm_store::SiteId;
use strelm_store::edge::{self, EdgeSettings};
use utoipa::ToSchema;

use super::footer::FooterWish;
use crate::api::{ApiError, Problem, State};

/// What edges put into pages beside the links of rules.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct EdgeWish {
    /// What is handed over.
    pub carries: bool,
    pub footer: FooterWish,
}

/// Sets it. Edges follow within a second.
#[utoipa::path(operation_id = "edge_set", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/sites/{site}/edge")]
pub async fn set(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<EdgeWish>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let EdgeWish { carries, footer } = wish.into_inner();
    let footer = live.ask(move |model| footer.footer(model)).await??;
    edge::set(&state.pool, SiteId(*path), &EdgeSettings { carries, footer }).await?;
    Ok(HttpResponse::NoContent().finish())
}
