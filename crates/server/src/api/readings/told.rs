//! What a reading found that is worth telling: new, changed, moved and vanished pages, failures, what was left out.

use std::collections::HashMap;

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::site::PageId;
use strelm_store::SiteId;
use strelm_store::reading::{self, Outcome, ReadingId};
use utoipa::{IntoParams, ToSchema};

use crate::api::pages::PageRef;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// Rows of one kind that are shown.
const MOST: i64 = 500;

/// What became of an address in a reading.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ToldOutcome {
    New,
    Changed,
    Moved,
    Vanished,
    Failed,
    LeftOut,
}

/// Which reading, and which of its addresses.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[param(inline)]
    outcome: ToldOutcome,
}

/// An address with what became of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct ToldAddress {
    pub address: String,
    /// The page there, if there is one.
    pub page: Option<PageRef>,
    /// Why, or where it moved to.
    pub note: Option<String>,
}

/// What became of the addresses of a reading.
#[utoipa::path(operation_id = "readings_told", params(Query), responses((status = 200, body = [ToldAddress]), (status = 404, body = Problem)))]
#[get("/sites/{site}/readings/{reading}/told")]
pub async fn told(
    state: web::Data<State>,
    path: web::Path<(i32, i64)>,
    query: web::Query<Query>,
) -> Result<web::Json<Vec<ToldAddress>>, ApiError> {
    let (site, id) = path.into_inner();
    let live = state.site(site).await?;
    let outcome = match query.outcome {
        ToldOutcome::New => Outcome::New,
        ToldOutcome::Changed => Outcome::Changed,
        ToldOutcome::Moved => Outcome::Moved,
        ToldOutcome::Vanished => Outcome::Vanished,
        ToldOutcome::Failed => Outcome::Failed,
        ToldOutcome::LeftOut => Outcome::LeftOut,
    };
    let addresses = reading::told(&state.pool, SiteId(site), ReadingId(id), &[outcome], MOST).await?;
    Ok(web::Json(live.ask(move |model| rows(model, addresses)).await?))
}

fn rows(model: &Model, addresses: Vec<reading::ReadAddress>) -> Vec<ToldAddress> {
    let gone: HashMap<_, _> = model.gone.values().map(|known| (&known.facts.address, known.facts.id)).collect();
    let page = |address: &strelm_core::site::Address| {
        let there = model.site.page_at(address).or_else(|| gone.get(address).copied());
        there.and_then(|PageId(page)| PageRef::of(model, page).ok())
    };
    let row = |read: reading::ReadAddress| ToldAddress {
        page: page(&read.address),
        address: read.address.to_string(),
        note: read.note,
    };
    addresses.into_iter().map(row).collect()
}
