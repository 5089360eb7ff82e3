//! Pages, filtered and sorted, a window of them at a time.

use std::time::Duration;

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::site::Moment;
use utoipa::{IntoParams, ToSchema};

use super::row::{Kind, PageRow};
use crate::api::reach::WAIT;
use crate::api::{ApiError, Problem, State};
use strelm_live::{Column, ColumnRange, Model, Only, PageQuery};

/// The largest window.
const MOST_ROWS: usize = 500;

/// Longer texts are not looked for.
const LONGEST_TEXT: usize = 200;

/// Which pages, in which order.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Filter {
    /// Words that title, address, category or kind must hold, in any order.
    #[serde(default)]
    text: String,
    #[param(inline)]
    only: Option<Only>,
    #[param(inline)]
    kind: Option<Kind>,
    category: Option<String>,
    /// Bounds for figures, such as `words:100..500,links_in:..3`.
    #[serde(default)]
    ranges: String,
    #[serde(default)]
    #[param(inline)]
    sort: Column,
    #[serde(default)]
    descending: bool,
}

/// Which rows are asked for: filters, order, and a stretch of them.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Window {
    #[serde(default)]
    offset: usize,
    limit: Option<usize>,
}

impl Window {
    /// Where it begins, and how many rows it has at most.
    pub fn stretch(&self, most: usize) -> (usize, usize) {
        (self.offset, self.limit.unwrap_or(most).min(most))
    }
}

impl Filter {
    /// # Errors
    /// [`ApiError::Unusable`] when the bounds cannot be understood.
    pub fn wish(self) -> Result<PageQuery, ApiError> {
        let ranges = ColumnRange::parse_all(&self.ranges).ok_or_else(|| {
            ApiError::Unusable(
                "The bounds cannot be understood: they look like words:100..500 or links_in:..3.".to_owned(),
            )
        })?;
        Ok(PageQuery {
            text: self.text.chars().take(LONGEST_TEXT).collect(),
            only: self.only,
            kind: self.kind.map(Into::into),
            category: self.category,
            ranges,
            sort: self.sort,
            descending: self.descending,
        })
    }
}

/// A stretch of the rows, and how many there are in all.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageRows {
    /// How many pages pass the filters.
    pub total: usize,
    /// Whether equity, thread pages and islands are still being worked out.
    pub is_sounding: bool,
    pub rows: Vec<PageRow>,
}

/// O(rows of the window), in memory; the first window after a change also pays for the list.
#[utoipa::path(operation_id = "pages_list", params(Filter, Window), responses((status = 200, body = PageRows), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/sites/{site}/pages")]
pub async fn list(
    state: web::Data<State>,
    path: web::Path<i32>,
    filter: web::Query<Filter>,
    window: web::Query<Window>,
) -> Result<web::Json<PageRows>, ApiError> {
    let live = state.site(*path).await?;
    let wish = filter.into_inner().wish()?;
    // Whoever does not ask for it does not wait for it.
    live.soundings(Moment::Now, if wish.tells_of_soundings() { WAIT } else { Duration::ZERO }).await?;
    let (offset, limit) = window.stretch(MOST_ROWS);
    let rows = move |model: &Model| {
        let listed = model.listed(&wish);
        let shown = listed.iter().skip(offset).take(limit);
        let rows = shown.filter_map(|id| Some(PageRow::of(model, model.site.page(*id)?, model.site.figures(*id)?)));
        PageRows { total: listed.len(), is_sounding: !model.sounded(Moment::Now).is_fresh, rows: rows.collect() }
    };
    Ok(web::Json(live.ask(rows).await?))
}
