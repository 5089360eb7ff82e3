//! Taking an opening: it goes into the tray.

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::site::PageId;
use strelm_store::SiteId;
use strelm_store::taken::{self, NewLink};
use utoipa::ToSchema;

use crate::api::pages::Sentence;
use crate::api::sites::show::{TrayFigures, tray_figures};
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use crate::live::Model;

#[derive(Debug, Deserialize, ToSchema)]
pub struct Take {
    source: u32,
    target: u32,
    words_start: usize,
    words_end: usize,
    /// The version of the source page that the editor saw.
    version: String,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct Taken {
    pub change: i64,
    pub tray: TrayFigures,
}

#[utoipa::path(operation_id = "openings_take", responses((status = 200, body = Taken), (status = 409, body = Problem), (status = 404, body = Problem)))]
#[post("/sites/{site}/taken")]
pub async fn take(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<Take>,
) -> Result<web::Json<Taken>, ApiError> {
    let live = state.site(*path).await?;
    let link = new_link(&live.read(), &wish)?;
    let added = taken::add(&state.pool, SiteId(*path), &link).await;
    let (change, _) = added.map_err(|error| match error.is_conflict() {
        true => ApiError::Conflict("A link between these two pages is in the tray already.".to_owned()),
        false => error.into(),
    })?;
    live.catch_up(&state.pool).await?;
    Ok(web::Json(Taken { change: change.0, tray: tray_figures(&live.read()) }))
}

/// Only what the engine found can be taken, as it is now: nothing is taken on a page that has changed.
fn new_link(model: &Model, wish: &Take) -> Result<NewLink, ApiError> {
    page_of(model, wish.source)?;
    let target = page_of(model, wish.target)?;
    let source = PageId(wish.source);
    let hash = model.versions.get(&source).copied().filter(|hash| hash.to_string() == wish.version);
    let hash = hash.ok_or_else(|| {
        ApiError::Conflict("The page was read anew meanwhile. Look at its openings once more.".to_owned())
    })?;
    let found = model.openings_out(source).into_iter().chain(model.openings_in(target.id));
    let is_meant = |o: &strelm_core::openings::Opening| {
        (o.source, o.target) == (source, target.id)
            && (o.words.start, o.words.end) == (wish.words_start, wish.words_end)
    };
    let opening = found.into_iter().find(is_meant).ok_or_else(|| {
        ApiError::Conflict("This opening is gone: its words were used, or it was passed or taken meanwhile.".to_owned())
    })?;
    let sentence = Sentence::of(model, &opening);
    Ok(NewLink {
        source,
        target: target.id,
        words: opening.words,
        source_hash: hash,
        anchor: sentence.anchor,
        before_anchor: sentence.before,
        after_anchor: sentence.after,
        href: target.address.from_root(),
        fit: opening.fit.total(),
    })
}
