//! A site with the figures that are always in view.

use actix_web::{get, web};
use chrono::{DateTime, Utc};
use serde::Serialize;
use strelm_store::reading::{self, ReadingState};
use strelm_store::release::{self, ReleaseState};
use strelm_store::{SiteId, site};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};
use crate::live::Model;

#[derive(Debug, Serialize, ToSchema)]
pub struct SiteStatus {
    pub id: i32,
    pub name: String,
    pub entry: String,
    /// Whether links can be released: the site has an editing interface.
    pub editable: bool,
    pub pages: usize,
    pub orphans: usize,
    /// Pages that cannot be reached from the entry page, orphans among them.
    pub unreachable: usize,
    pub tray: TrayFigures,
    pub reading: Option<ReadingStatus>,
    /// Whether a release is on its way out or back.
    pub releasing: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TrayFigures {
    pub links: usize,
    /// Pages on which they stand.
    pub pages: usize,
    /// Links that were held back or whose page has changed.
    pub warnings: usize,
}

#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReadingPhase {
    Waiting,
    Running,
    Done,
    Failed,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ReadingStatus {
    pub phase: ReadingPhase,
    /// Addresses known so far, read or not.
    pub known: i32,
    /// Addresses dealt with: pages, files and failures.
    pub done: i32,
    pub pages: i32,
    pub failures: i32,
    pub message: Option<String>,
    pub finished_at: Option<DateTime<Utc>>,
}

#[utoipa::path(operation_id = "sites_show", responses((status = 200, body = SiteStatus), (status = 404, body = Problem)))]
#[get("/sites/{site}")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<SiteStatus>, ApiError> {
    let live = state.site(*path).await?;
    let id = SiteId(*path);
    let site = site::get(&state.pool, id).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    let reading = reading::latest(&state.pool, id).await?;
    let latest = release::all(&state.pool, id, 1).await?.pop();
    let model = live.read();
    let totals = model.totals();
    Ok(web::Json(SiteStatus {
        id: site.id.0,
        name: site.name,
        entry: site.entry,
        editable: site.micropub.is_some(),
        pages: totals.pages,
        orphans: totals.orphans,
        unreachable: totals.unreachable,
        tray: tray_figures(&model),
        reading: reading.map(status),
        releasing: latest.is_some_and(|r| !matches!(r.state, ReleaseState::Out | ReleaseState::TakenBack)),
    }))
}

pub fn tray_figures(model: &Model) -> TrayFigures {
    let mut pages: Vec<_> = model.planned.values().map(|taken| taken.link.source).collect();
    pages.sort_unstable();
    pages.dedup();
    let outdated = |taken: &&strelm_store::taken::TakenLink| {
        taken.message.is_some() || model.versions.get(&taken.link.source) != Some(&taken.link.source_hash)
    };
    TrayFigures {
        links: model.planned.len(),
        pages: pages.len(),
        warnings: model.planned.values().filter(outdated).count(),
    }
}

fn status(reading: reading::Reading) -> ReadingStatus {
    let progress = reading.progress;
    ReadingStatus {
        phase: match reading.state {
            ReadingState::Waiting => ReadingPhase::Waiting,
            ReadingState::Running => ReadingPhase::Running,
            ReadingState::Done => ReadingPhase::Done,
            ReadingState::Failed => ReadingPhase::Failed,
        },
        known: progress.known,
        done: progress.pages + progress.files + progress.failures,
        pages: progress.pages,
        failures: progress.failures,
        message: reading.message,
        finished_at: reading.finished_at,
    }
}
