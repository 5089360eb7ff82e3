//! The find-anything box: pages of every kind by title, address and words.

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::row::PageRef;
use crate::api::{ApiError, Problem, State};
use strelm_live::{FoundIn, Model};

const MOST: usize = 20;
const LONGEST_TEXT: usize = 200;

/// What is looked for.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    text: String,
}

/// A page that was found, and where.
#[derive(Debug, Serialize, ToSchema)]
pub struct FoundPage {
    pub page: PageRef,
    pub place: FoundPlace,
}

/// Where the words stand.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FoundPlace {
    Title,
    Address,
    Text,
}

/// O(pages), in memory.
#[utoipa::path(operation_id = "pages_find", params(Query), responses((status = 200, body = [FoundPage]), (status = 404, body = Problem)))]
#[get("/sites/{site}/find")]
pub async fn find(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<Vec<FoundPage>>, ApiError> {
    let live = state.site(*path).await?;
    let text: String = query.text.chars().take(LONGEST_TEXT).collect();
    Ok(web::Json(live.ask(move |model| found(model, &text)).await??))
}

fn found(model: &Model, text: &str) -> Result<Vec<FoundPage>, ApiError> {
    let found = model.find(text, MOST).into_iter().map(|(page, place)| {
        let place = match place {
            FoundIn::TitleBegins | FoundIn::Title => FoundPlace::Title,
            FoundIn::Address => FoundPlace::Address,
            FoundIn::Text => FoundPlace::Text,
        };
        Ok(FoundPage { page: PageRef::of(model, page.0)?, place })
    });
    found.collect()
}
