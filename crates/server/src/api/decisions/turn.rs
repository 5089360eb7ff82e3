//! Undoing the latest decision of a browser, and doing it again.

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_store::decision::{self, Maker};
use strelm_store::{SiteId, StoreError};
use utoipa::ToSchema;
use uuid::Uuid;

use super::Decided;
use crate::api::{ApiError, Problem, State};

#[derive(Debug, Deserialize, ToSchema)]
pub struct Turn {
    /// The browser's own number.
    hand: Uuid,
    /// The order's own number, so that one that is sent twice is done once.
    key: Uuid,
}

/// What was undone or done again; nothing when there was nothing to.
#[derive(Debug, Serialize, ToSchema)]
pub struct Turned {
    pub decided: Option<Decided>,
}

#[utoipa::path(operation_id = "decisions_undo", responses((status = 200, body = Turned), (status = 409, body = Problem)))]
#[post("/sites/{site}/undo")]
pub async fn undo(
    state: web::Data<State>,
    path: web::Path<i32>,
    turn: web::Json<Turn>,
) -> Result<web::Json<Turned>, ApiError> {
    let live = state.site(*path).await?;
    let maker = Maker { hand: turn.hand, key: turn.key };
    let undone = decision::undo(&state.pool, SiteId(*path), maker).await.map_err(taken_by_others)?;
    live.catch_up(&state.pool).await?;
    let decided = undone.map(|decision| Decided::of(&live.read(), decision));
    Ok(web::Json(Turned { decided }))
}

#[utoipa::path(operation_id = "decisions_redo", responses((status = 200, body = Turned), (status = 409, body = Problem)))]
#[post("/sites/{site}/redo")]
pub async fn redo(
    state: web::Data<State>,
    path: web::Path<i32>,
    turn: web::Json<Turn>,
) -> Result<web::Json<Turned>, ApiError> {
    let live = state.site(*path).await?;
    let maker = Maker { hand: turn.hand, key: turn.key };
    let redone = decision::redo(&state.pool, SiteId(*path), maker).await.map_err(taken_by_others)?;
    live.catch_up(&state.pool).await?;
    let decided = redone.map(|decision| Decided::of(&live.read(), decision));
    Ok(web::Json(Turned { decided }))
}

fn taken_by_others(error: StoreError) -> ApiError {
    match error.is_conflict() {
        true => ApiError::Conflict(
            "These words, or these two pages, got another link in the tray meanwhile. Drop that one first.".to_owned(),
        ),
        false => error.into(),
    }
}
