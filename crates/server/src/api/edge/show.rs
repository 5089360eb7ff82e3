//! What is set for the edges of a site, and which of them run.

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::tray::TrayState;
use strelm_store::{SiteId, edge};
use utoipa::ToSchema;

use super::footer::{FooterWish, html};
use crate::api::pages::PageRef;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// What is set for the edges of a site, and which of them run.
#[derive(Debug, Serialize, ToSchema)]
pub struct EdgeShown {
    /// Whether they put what is handed over into pages.
    pub carries: bool,
    /// Whether what is decided is handed over at all.
    pub is_handed_over: bool,
    /// Links that are handed over and not seen on the site itself, and those of them whose sentence was not there when the site was
    /// last read.
    pub handed_over: usize,
    pub lost: usize,
    pub footer: FooterWish,
    /// The pages to which the footer leads.
    pub footer_pages: Vec<PageRef>,
    /// The footer as it is written into pages, for whoever puts it there by hand; nothing as long as it has no links.
    pub snippet: Option<String>,
    pub running: Vec<RunningEdge>,
    /// What is typed to start one.
    pub command: String,
}

/// An edge that runs.
#[derive(Debug, Serialize, ToSchema)]
pub struct RunningEdge {
    /// Where it listens.
    pub address: String,
    pub upstream: String,
}

/// O(tray + links of the footer).
#[utoipa::path(operation_id = "edge_show", responses((status = 200, body = EdgeShown), (status = 404, body = Problem)))]
#[get("/sites/{site}/edge")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<EdgeShown>, ApiError> {
    let live = state.site(*path).await?;
    let site = strelm_store::site::get(&state.pool, SiteId(*path)).await?;
    let site = site.ok_or(ApiError::NotFound("There is no such site."))?;
    let running = edge::running(&state.pool, site.id).await?;
    let running = running.into_iter().map(|edge| RunningEdge { address: edge.address, upstream: edge.upstream });
    let running: Vec<_> = running.collect();
    let is_handed_over = site.way() == strelm_store::site::Way::HandedOver;
    let upstream = site.entry.as_url().origin().ascii_serialization();
    let name = site.settings.name.replace('"', "");
    let command = format!("strelm edge --site \"{name}\" --upstream {upstream} --listen 127.0.0.1:8000");
    let shown = move |model: &Model| {
        let set = model.edge();
        let handed_over = || model.tray.all().filter(|entry| entry.state == TrayState::HandedOver);
        let lost = handed_over().filter(|entry| entry.sighting == Some(strelm_core::document::Sighting::SentenceGone));
        let footer = FooterWish::of(&set.footer);
        let pages = footer.links.iter().filter_map(|link| PageRef::of(model, link.page?).ok()).collect();
        Ok::<_, ApiError>(EdgeShown {
            carries: set.carries,
            is_handed_over,
            handed_over: handed_over().count(),
            lost: lost.count(),
            snippet: html(model, &set.footer),
            footer,
            footer_pages: pages,
            running,
            command,
        })
    };
    Ok(web::Json(live.ask(shown).await??))
}
