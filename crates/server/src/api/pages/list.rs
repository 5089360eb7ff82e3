//! Pages, filtered and sorted, a window of them at a time.

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::row::PageRow;
use crate::api::{ApiError, Problem, State};
use crate::live::{Only, SortBy, Wish};

/// The largest window.
const MOST_ROWS: usize = 500;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    /// Words that title, address, category or kind must hold, in any order.
    #[serde(default)]
    text: String,
    #[param(inline)]
    only: Option<Only>,
    #[serde(default)]
    #[param(inline)]
    sort: SortBy,
    #[serde(default)]
    descending: bool,
    #[serde(default)]
    offset: usize,
    limit: Option<usize>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct PageRows {
    /// How many pages pass the filters.
    pub total: usize,
    pub rows: Vec<PageRow>,
}

/// O(rows of the window), in memory; the first window after a change also pays for the list.
#[utoipa::path(operation_id = "pages_list", params(Query), responses((status = 200, body = PageRows), (status = 404, body = Problem)))]
#[get("/sites/{site}/pages")]
pub async fn list(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<PageRows>, ApiError> {
    let live = state.site(*path).await?;
    let model = live.read();
    let Query { text, only, sort, descending, offset, limit } = query.into_inner();
    let listed = model.listed(&Wish { text, only, sort, descending });
    let window = listed.iter().skip(offset).take(limit.unwrap_or(MOST_ROWS).min(MOST_ROWS));
    let rows = window.filter_map(|id| Some(PageRow::of(&model, model.site.page(*id)?, model.site.figures(*id)?)));
    Ok(web::Json(PageRows { total: listed.len(), rows: rows.collect() }))
}
