//! Undoing the latest decision of a browser, and doing it again.

use std::sync::Arc;

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::tray::Decision;
use strelm_store::decision::{self, Answered, Maker};
use strelm_store::{SiteId, StoreError};
use utoipa::ToSchema;
use uuid::Uuid;

use super::Decided;
use crate::api::{ApiError, Problem, State};
use strelm_live::LiveSite;

/// Who undoes or does again, and under which key.
#[derive(Debug, Deserialize, ToSchema)]
pub struct Turn {
    /// The browser's own number.
    hand: Uuid,
    /// The order's own number, so that one that is sent twice is done once.
    key: Uuid,
}

impl Turn {
    const fn maker(&self) -> Maker {
        Maker { hand: self.hand, key: self.key }
    }
}

/// What was undone or done again; nothing when there was nothing to.
#[derive(Debug, Serialize, ToSchema)]
pub struct Turned {
    pub decided: Option<Decided>,
}

/// Undoes the latest decision of this browser.
#[utoipa::path(operation_id = "decisions_undo", responses((status = 200, body = Turned), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/sites/{site}/undo")]
pub async fn undo(
    state: web::Data<State>,
    path: web::Path<i32>,
    turn: web::Json<Turn>,
) -> Result<web::Json<Turned>, ApiError> {
    let live = state.site(*path).await?;
    let undone = decision::undo(&state.pool, SiteId(*path), turn.maker()).await;
    told(&state, &live, SiteId(*path), turn.key, undone).await
}

/// Does again what this browser undid last.
#[utoipa::path(operation_id = "decisions_redo", responses((status = 200, body = Turned), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/sites/{site}/redo")]
pub async fn redo(
    state: web::Data<State>,
    path: web::Path<i32>,
    turn: web::Json<Turn>,
) -> Result<web::Json<Turned>, ApiError> {
    let live = state.site(*path).await?;
    let redone = decision::redo(&state.pool, SiteId(*path), turn.maker()).await;
    told(&state, &live, SiteId(*path), turn.key, redone).await
}

async fn told(
    state: &State,
    live: &Arc<LiveSite>,
    site: SiteId,
    key: Uuid,
    turned: Result<Option<Decision>, StoreError>,
) -> Result<web::Json<Turned>, ApiError> {
    let answered = match turned {
        Ok(turned) => turned.map_or(Answered::Nothing, Answered::Done),
        Err(StoreError::Refused(why)) => Answered::Refused(why),
        Err(error) if error.is_conflict() => decision::refuse(&state.pool, site, key, TAKEN_BY_OTHERS).await?,
        Err(other) => return Err(other.into()),
    };
    live.catch_up(&state.pool).await?;
    match answered {
        Answered::Refused(why) => Err(ApiError::Conflict(why)),
        Answered::Nothing => Ok(web::Json(Turned { decided: None })),
        Answered::Done(decision) => {
            let decided = live.ask(move |model| Decided::of(model, decision)).await?;
            Ok(web::Json(Turned { decided: Some(decided) }))
        }
    }
}

const TAKEN_BY_OTHERS: &str =
    "These words, or these two pages, got another link in the tray meanwhile. Drop that one first.";
