//! The tray: what is taken and not yet out, by page.

use actix_web::{get, web};
use serde::Serialize;
use strelm_store::taken::{TakenLink, TakenState};
use utoipa::ToSchema;

use crate::api::pages::{PageRef, Sentence};
use crate::api::{ApiError, Problem, State};
use crate::live::Model;

#[derive(Debug, Serialize, ToSchema)]
pub struct TrayPage {
    /// The page on which the links will stand.
    pub page: PageRef,
    pub links: Vec<TrayLink>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TrayLink {
    pub change: i64,
    pub target: PageRef,
    /// What is written into the page.
    pub href: String,
    pub sentence: Sentence,
    /// Whether it is on its way to the site.
    pub releasing: bool,
    /// Why it was held back, or will be.
    pub warning: Option<String>,
}

#[utoipa::path(operation_id = "tray_show", responses((status = 200, body = [TrayPage]), (status = 404, body = Problem)))]
#[get("/sites/{site}/tray")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Vec<TrayPage>>, ApiError> {
    let live = state.site(*path).await?;
    let model = live.read();
    let mut planned: Vec<_> = model.planned.values().collect();
    planned.sort_by_key(|taken| (taken.link.source, taken.link.words, taken.id));
    let mut pages: Vec<TrayPage> = Vec::new();
    for taken in planned {
        let source = taken.link.source.0;
        let link = row(&model, taken)?;
        match pages.last_mut().filter(|page| page.page.number == source) {
            Some(page) => page.links.push(link),
            None => pages.push(TrayPage { page: PageRef::of(&model, source)?, links: vec![link] }),
        }
    }
    Ok(web::Json(pages))
}

fn row(model: &Model, taken: &TakenLink) -> Result<TrayLink, ApiError> {
    let link = &taken.link;
    let outdated = model.versions.get(&link.source) != Some(&link.source_hash);
    let outdated =
        outdated.then(|| "The page has changed since this link was taken. Drop it and take it anew.".to_owned());
    Ok(TrayLink {
        change: taken.id.0,
        target: PageRef::of(model, link.target.0)?,
        href: link.href.clone(),
        sentence: Sentence {
            before: link.before_anchor.clone(),
            anchor: link.anchor.clone(),
            after: link.after_anchor.clone(),
        },
        releasing: taken.state == TakenState::Releasing,
        warning: taken.message.clone().or(outdated),
    })
}
