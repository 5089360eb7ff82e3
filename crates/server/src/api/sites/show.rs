//! A site with the figures that are always in view.

use actix_web::{get, web};
use chrono::Utc;
use serde::Serialize;
use strelm_core::tray::TrayState;
use strelm_store::reading;
use strelm_store::release::{self, ReleaseState};
use strelm_store::site::SiteSource;
use strelm_store::{SiteId, site};
use utoipa::ToSchema;

use crate::api::readings::list::ReadingStatus;
use crate::api::releases::list::ReleaseWay;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// A site in figures, and what is under way there.
#[derive(Debug, Serialize, ToSchema)]
pub struct SiteStatus {
    pub id: i32,
    pub name: String,
    pub entry: String,
    /// How what is in the tray gets to it.
    pub way: ReleaseWay,
    /// Whether it is read from a folder.
    pub is_folder: bool,
    pub pages: usize,
    pub orphans: usize,
    /// Pages that cannot be reached from the entry page, orphans among them.
    pub unreachable: usize,
    /// Pages whose text was looked at for openings, and pages that are still to be looked at.
    pub openings_known: usize,
    pub openings_waiting: usize,
    /// Texts that are still on their way into memory while nothing is known of openings; null when all are there.
    pub texts_to_come: Option<usize>,
    pub tray: TrayFigures,
    pub reading: Option<ReadingStatus>,
    /// Whether a release is on its way out or back.
    pub releasing: bool,
    /// Whether the latest release waits for somebody to decide how it goes on.
    pub interrupted: bool,
}

/// The tray in figures.
#[derive(Debug, Serialize, ToSchema)]
pub struct TrayFigures {
    pub links: usize,
    /// Pages on which they stand.
    pub pages: usize,
    /// Links that were held back or whose page has changed.
    pub warnings: usize,
    /// Links that were handed over and not seen on the site yet; they are in the tray no more.
    pub handed_over: usize,
}

/// A site in figures.
#[utoipa::path(operation_id = "sites_show", responses((status = 200, body = SiteStatus), (status = 404, body = Problem)))]
#[get("/sites/{site}")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<SiteStatus>, ApiError> {
    let live = state.site(*path).await?;
    let id = SiteId(*path);
    let site = site::get(&state.pool, id).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    let reading = reading::latest(&state.pool, id).await?;
    let latest = release::all(&state.pool, id, 1).await?.pop();
    let asked = |model: &Model| (model.totals(), model.openings_progress(), model.texts_known(), tray_figures(model));
    let (totals, progress, texts, tray) = live.ask(asked).await?;
    Ok(web::Json(SiteStatus {
        id: site.id.0,
        way: site.way().into(),
        is_folder: matches!(site.settings.source, SiteSource::Folder { .. }),
        name: site.settings.name,
        entry: site.entry.to_string(),
        pages: totals.pages,
        orphans: totals.orphans,
        unreachable: totals.unreachable,
        openings_known: progress.0,
        openings_waiting: progress.1 + texts.unread,
        texts_to_come: (!texts.is_whole).then_some(texts.unread),
        tray,
        reading: reading.map(|reading| ReadingStatus::of(reading, Utc::now())),
        interrupted: latest.as_ref().is_some_and(|r| r.state == ReleaseState::Interrupted),
        releasing: latest.is_some_and(|r| {
            matches!(r.state, ReleaseState::Waiting | ReleaseState::Running | ReleaseState::TakingBack)
        }),
    }))
}

/// The tray of a model in figures. O(1).
pub fn tray_figures(model: &Model) -> TrayFigures {
    let in_tray = || model.tray.waiting();
    let mut pages: Vec<_> = in_tray().map(|entry| entry.link.source).collect();
    pages.sort_unstable();
    pages.dedup();
    TrayFigures {
        links: in_tray().count(),
        pages: pages.len(),
        warnings: in_tray().filter(|entry| entry.warning(&model.site, &model.sources).is_some()).count(),
        handed_over: model.tray.all().filter(|entry| entry.state == TrayState::HandedOver).count(),
    }
}
