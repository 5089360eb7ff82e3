//! The tray: what is taken and not yet out, by page.

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::tray::{Change, PlannedLink, TrayEntry, TrayState, outlook};
use utoipa::ToSchema;

use crate::api::pages::{PageRef, Sentence};
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// A page with what is in the tray for it.
#[derive(Debug, Serialize, ToSchema)]
pub struct TrayPage {
    /// The page on which the links will stand.
    pub page: PageRef,
    /// Links in its content to other pages: now, and with these.
    pub links_before: u32,
    pub links_after: u32,
    pub links: Vec<TrayLink>,
}

/// A link of the tray.
#[derive(Debug, Serialize, ToSchema)]
pub struct TrayLink {
    pub change: i64,
    pub doing: Doing,
    /// The page to which the words lead afterwards; nothing when their link is taken off, or leads elsewhere.
    pub target: Option<PageRef>,
    /// Where they lead until then, as it is written; nothing when they carry no link yet.
    pub old: Option<String>,
    /// What is written into the page.
    pub href: String,
    /// As it will be.
    pub sentence: Sentence,
    /// The sentence in whose place it comes; nothing when the words stay.
    pub was: Option<String>,
    /// Whether it is on its way to the site.
    pub releasing: bool,
    /// Why it was held back, or will be.
    pub warning: Option<String>,
}

/// What a change does to its page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Doing {
    /// A link is put on words.
    Put,
    /// A link leads elsewhere.
    Retarget,
    /// A link is taken off its words.
    Unlink,
    /// The editor's own sentence comes in place of another, with a link.
    Reword,
    /// A link is put on a picture; the sentence is then what the picture says.
    PutOnPicture,
    /// A link leads where it did and says other things.
    Attributes,
}

impl Doing {
    /// By the change.
    pub const fn of(change: &Change) -> Self {
        match change {
            Change::Put => Self::Put,
            Change::Retarget(_) => Self::Retarget,
            Change::Unlink(_) => Self::Unlink,
            Change::Reword(_) => Self::Reword,
            Change::PutOnPicture(_) => Self::PutOnPicture,
            Change::Attributes(_) => Self::Attributes,
        }
    }
}

/// The page to which a change leads; nothing when it takes a link off, or leads to what is no page of the site.
pub fn target_of(model: &Model, link: &PlannedLink) -> Result<Option<PageRef>, ApiError> {
    link.target_page().map(|target| PageRef::of(model, target.0)).transpose()
}

/// What is taken and not yet out, by page.
#[utoipa::path(operation_id = "tray_show", responses((status = 200, body = [TrayPage]), (status = 404, body = Problem)))]
#[get("/sites/{site}/tray")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Vec<TrayPage>>, ApiError> {
    let live = state.site(*path).await?;
    Ok(web::Json(live.ask(pages_of).await??))
}

fn pages_of(model: &Model) -> Result<Vec<TrayPage>, ApiError> {
    let outlook = outlook(&model.tray, &model.site, &model.sources, model.limits().links);
    let mut planned: Vec<_> = model.tray.waiting().collect();
    planned.sort_by_key(|entry| (entry.link.source, entry.link.words, entry.id));
    let mut pages: Vec<TrayPage> = Vec::new();
    for entry in planned {
        let source = entry.link.source;
        let link = row(model, entry, outlook.warnings.get(&entry.id).cloned())?;
        match pages.last_mut().filter(|page| page.page.number == source.0) {
            Some(page) => page.links.push(link),
            None => {
                let (links_before, links_after) = outlook.links.get(&source).copied().unwrap_or_default();
                pages.push(TrayPage {
                    page: PageRef::of(model, source.0)?,
                    links_before,
                    links_after,
                    links: vec![link],
                });
            }
        }
    }
    Ok(pages)
}

fn row(model: &Model, entry: &TrayEntry, warning: Option<String>) -> Result<TrayLink, ApiError> {
    let link = &entry.link;
    Ok(TrayLink {
        change: entry.id.0,
        doing: Doing::of(&link.change),
        target: target_of(model, link)?,
        old: link.change.old().map(|old| old.href.clone()),
        href: link.href.clone(),
        sentence: Sentence::of_link(link),
        was: matches!(link.change, Change::Reword(_)).then(|| link.said.anchor.clone()),
        releasing: entry.state == TrayState::Releasing,
        warning,
    })
}
