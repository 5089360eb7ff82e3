//! The tray: what is taken and not yet out, by page.

use std::collections::HashMap;

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::site::PageId;
use strelm_store::taken::{Change, NewLink, TakenLink, TakenState};
use utoipa::ToSchema;

use crate::api::pages::{PageRef, Sentence};
use crate::api::{ApiError, Problem, State};
use crate::live::Model;

#[derive(Debug, Serialize, ToSchema)]
pub struct TrayPage {
    /// The page on which the links will stand.
    pub page: PageRef,
    /// Links in its content to other pages: now, and with these.
    pub links_before: u32,
    pub links_after: u32,
    pub links: Vec<TrayLink>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TrayLink {
    pub change: i64,
    pub doing: Doing,
    /// Where the words lead afterwards; nothing when their link is taken off.
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
}

impl Doing {
    pub const fn of(change: &Change) -> Self {
        match change {
            Change::Put => Self::Put,
            Change::Retarget(_) => Self::Retarget,
            Change::Unlink(_) => Self::Unlink,
            Change::Reword(_) => Self::Reword,
            Change::PutOnPicture(_) => Self::PutOnPicture,
        }
    }
}

/// Where a change leads; nothing when it takes a link off.
pub fn target_of(model: &Model, link: &NewLink) -> Result<Option<PageRef>, ApiError> {
    link.target.map(|target| PageRef::of(model, target.0)).transpose()
}

#[utoipa::path(operation_id = "tray_show", responses((status = 200, body = [TrayPage]), (status = 404, body = Problem)))]
#[get("/sites/{site}/tray")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Vec<TrayPage>>, ApiError> {
    let live = state.site(*path).await?;
    Ok(web::Json(live.ask(pages_of).await??))
}

fn pages_of(model: &Model) -> Result<Vec<TrayPage>, ApiError> {
    let mut planned: Vec<_> = model.planned.all().filter(|taken| taken.state.is_in_tray()).collect();
    planned.sort_by_key(|taken| (taken.link.source, taken.link.words, taken.id));
    let mut pages: Vec<TrayPage> = Vec::new();
    let limits = model.rules().limits;
    let put = planned.iter().filter(|taken| taken.link.change.brings_link());
    let put: Vec<_> = put.filter_map(|taken| Some((taken.id, taken.link.target?, taken.link.shown_anchor()))).collect();
    let breaches = limits.check_release(put.iter().map(|(_, target, anchor)| (*target, *anchor)));
    let breaches: HashMap<_, _> = put.iter().zip(breaches).map(|((id, ..), breach)| (*id, breach)).collect();
    for taken in planned {
        let breach = breaches.get(&taken.id).copied().flatten();
        let source = taken.link.source.0;
        let mut link = row(model, taken)?;
        if let Some(breach) = breach {
            link.warning.get_or_insert_with(|| format!("A limit would be broken: {breach}."));
        }
        match pages.last_mut().filter(|page| page.page.number == source) {
            Some(page) => page.links.push(link),
            None => {
                let figures = model.site.figures(taken.link.source).unwrap_or_default();
                let on_page = model.planned_on(taken.link.source);
                let going = on_page.filter(|other| !other.link.change.brings_link()).count();
                let going = u32::try_from(going).unwrap_or(u32::MAX);
                pages.push(TrayPage {
                    page: PageRef::of(model, source)?,
                    links_before: (figures.links_out + going).saturating_sub(figures.planned_out),
                    links_after: figures.links_out,
                    links: vec![link],
                });
            }
        }
    }
    for page in &mut pages {
        let words = model.site.page(PageId(page.page.number)).map_or(0, |facts| facts.words as usize);
        let most = limits.of_page(words);
        if page.links_after as usize > most {
            let why = format!(
                "With these the page has {} links in its content, more than {most} for its length.",
                page.links_after
            );
            for link in &mut page.links {
                link.warning.get_or_insert_with(|| why.clone());
            }
        }
    }
    Ok(pages)
}

fn row(model: &Model, taken: &TakenLink) -> Result<TrayLink, ApiError> {
    let link = &taken.link;
    let warning = taken.message.clone().or_else(|| outdated(model, taken));
    Ok(TrayLink {
        change: taken.id.0,
        doing: Doing::of(&link.change),
        target: target_of(model, link)?,
        old: link.change.old().map(|old| old.href.clone()),
        href: link.href.clone(),
        sentence: Sentence::of_link(link),
        was: matches!(link.change, Change::Reword(_)).then(|| link.anchor.clone()),
        releasing: taken.state == TakenState::Releasing,
        warning,
    })
}

/// What is known against a link before anybody tries to release it.
pub fn outdated(model: &Model, taken: &TakenLink) -> Option<String> {
    let link = &taken.link;
    if link.target.is_some_and(|target| model.site.page(target).is_none()) {
        return Some("The page that it leads to is no longer on the site. Drop this link.".to_owned());
    }
    match model.sources.get(&link.source) {
        None => Some("The page is no longer on the site, or cannot be edited any more. Drop this link.".to_owned()),
        Some(hash) if *hash != link.source_hash => {
            Some("The page has changed since; the link is placed anew when it is released.".to_owned())
        }
        Some(_) => None,
    }
}
