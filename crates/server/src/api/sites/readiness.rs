//! Whether a site is in the server's memory. A large one takes a while to get there, in which nothing else answers.

use std::time::Duration;

use actix_web::{get, web};
use serde::Serialize;
use strelm_store::SiteId;
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};
use strelm_live::Readiness;

/// Small sites are there within this; nobody need see them come.
const WAIT: Duration = Duration::from_secs(1);

/// Whether a site is in memory; if not, how far it is.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "state", rename_all = "snake_case")]
pub enum SiteReadiness {
    Ready,
    /// So many of so many pages are there. When all are, it is put in order.
    Loading {
        done: usize,
        total: usize,
        seconds_left: Option<u64>,
    },
}

/// Begins to load a site where it is not in memory, and tells how far that is.
#[utoipa::path(operation_id = "sites_readiness", responses((status = 200, body = SiteReadiness), (status = 404, body = Problem)))]
#[get("/sites/{site}/readiness")]
pub async fn readiness(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<SiteReadiness>, ApiError> {
    let readiness = state.live.readiness(&state.pool, SiteId(*path), WAIT).await?;
    Ok(web::Json(match readiness {
        Readiness::Ready => SiteReadiness::Ready,
        Readiness::Loading { done, total, left } => {
            SiteReadiness::Loading { done, total, seconds_left: left.map(|left| left.as_secs()) }
        }
    }))
}
