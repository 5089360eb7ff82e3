//! Where a sentence with a link would fit, on a page that has no words for it; and which pages belong together.

use std::collections::HashSet;

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::document::text::fold_space;
use strelm_core::site::PageId;
use utoipa::{IntoParams, ToSchema};

use crate::api::pages::PageRef;
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

const MOST: usize = 5;

/// In which direction bridges are asked for.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    page: u32,
    /// Whether links to the page are looked for, rather than from it.
    #[serde(default)]
    inbound: bool,
}

/// A place for a sentence that leads from one page to another.
#[derive(Debug, Serialize, ToSchema)]
pub struct BridgeRow {
    /// The page at the other end.
    pub page: PageRef,
    pub source: u32,
    pub target: u32,
    /// The paragraph after whose last sentence it would stand.
    pub after: String,
    /// Telling words that the paragraph and the target have in common.
    pub shared: Vec<String>,
    /// Links that the paragraph has already.
    pub links: usize,
}

/// O(words of the pages that are alike).
#[utoipa::path(operation_id = "openings_bridges", params(Query), responses((status = 200, body = [BridgeRow]), (status = 404, body = Problem)))]
#[get("/sites/{site}/openings/bridges")]
pub async fn bridges(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<Vec<BridgeRow>>, ApiError> {
    let live = state.site(*path).await?;
    let query = query.into_inner();
    Ok(web::Json(live.ask(move |model| bridges_of(model, &query)).await??))
}

fn bridges_of(model: &Model, query: &Query) -> Result<Vec<BridgeRow>, ApiError> {
    let page = page_of(model, query.page)?.id;
    // What pages are alike is told by the texts of all.
    if model.texts_to_come().is_some() {
        return Ok(Vec::new());
    }
    let named = if query.inbound { model.openings_in(page) } else { model.openings_out(page) };
    let other_of = |source, target| if query.inbound { source } else { target };
    let named: HashSet<PageId> = named.iter().map(|opening| other_of(opening.source, opening.target)).collect();
    let linkable = model.linkable();
    let found = model.judge().bridges(page, query.inbound, &linkable);
    let mut rows = Vec::new();
    for bridge in found.filter(|bridge| !named.contains(&other_of(bridge.source, bridge.target))).take(MOST) {
        let text = model.book.prose(bridge.source).and_then(|prose| prose.text().get(bridge.after.range()));
        rows.push(BridgeRow {
            page: PageRef::of(model, other_of(bridge.source, bridge.target).0)?,
            source: bridge.source.0,
            target: bridge.target.0,
            after: fold_space(text.unwrap_or_default()),
            shared: bridge.shared,
            links: bridge.links,
        });
    }
    Ok(rows)
}
