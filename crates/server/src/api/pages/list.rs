//! Pages, filtered and sorted, a window of them at a time.

use std::cmp::Ordering;

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::language::fold;
use strelm_core::site::{Figures, PageFacts};
use utoipa::{IntoParams, ToSchema};

use super::row::{self, PageRow};
use crate::api::{ApiError, Problem, State};
use crate::live::Model;

/// The largest window.
const MOST_ROWS: usize = 500;

#[derive(Debug, Clone, Copy, Deserialize, ToSchema, Default)]
#[serde(rename_all = "snake_case")]
pub enum SortBy {
    Title,
    Address,
    Kind,
    Category,
    Words,
    LinksIn,
    LinksOut,
    LinksAway,
    #[default]
    Depth,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Only {
    /// Links in = 0.
    Orphans,
    /// Not within reach of the entry page.
    Unreachable,
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    /// Words that title, address or category must hold, in any order.
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

/// O(pages × log pages) in memory; no query.
#[utoipa::path(operation_id = "pages_list", params(Query), responses((status = 200, body = PageRows), (status = 404, body = Problem)))]
#[get("/sites/{site}/pages")]
pub async fn list(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<PageRows>, ApiError> {
    let live = state.site(*path).await?;
    let model = live.read();
    let mut found = matching(&model, &query);
    found.sort_by(|a, b| {
        let order = compare(query.sort, a, b);
        let order = if query.descending { order.reverse() } else { order };
        order.then_with(|| a.0.address.cmp(&b.0.address))
    });
    let total = found.len();
    let window = found.into_iter().skip(query.offset).take(query.limit.unwrap_or(MOST_ROWS).min(MOST_ROWS));
    let rows = window.map(|(page, figures)| PageRow::of(&model, page, figures)).collect();
    Ok(web::Json(PageRows { total, rows }))
}

fn matching<'m>(model: &'m Model, query: &Query) -> Vec<(&'m PageFacts, Figures)> {
    let wanted: Vec<_> = query.text.split_whitespace().map(fold).collect();
    let entry = model.site.page_at(model.site.entry());
    let has_words = |page: &PageFacts| {
        let category = page.category.as_deref().unwrap_or_default();
        let path = page.address.from_root();
        let text = fold(&format!("{} {path} {category} {}", row::title(model, page), page.kind.as_str()));
        wanted.iter().all(|word| text.contains(word))
    };
    let passes = |page: &PageFacts, figures: &Figures| match query.only {
        Some(Only::Orphans) => figures.is_orphan() && Some(page.id) != entry,
        Some(Only::Unreachable) => figures.depth.is_none(),
        None => true,
    };
    let pages = model.site.pages().filter(|page| wanted.is_empty() || has_words(page));
    let with_figures = pages.filter_map(|page| Some((page, model.site.figures(page.id)?)));
    with_figures.filter(|(page, figures)| passes(page, figures)).collect()
}

fn compare(by: SortBy, a: &(&PageFacts, Figures), b: &(&PageFacts, Figures)) -> Ordering {
    match by {
        SortBy::Title => a.0.title.to_lowercase().cmp(&b.0.title.to_lowercase()),
        SortBy::Address => a.0.address.cmp(&b.0.address),
        SortBy::Kind => a.0.kind.cmp(&b.0.kind),
        SortBy::Category => a.0.category.cmp(&b.0.category),
        SortBy::Words => a.0.words.cmp(&b.0.words),
        SortBy::LinksIn => a.1.links_in.cmp(&b.1.links_in),
        SortBy::LinksOut => a.1.links_out.cmp(&b.1.links_out),
        SortBy::LinksAway => a.1.links_away.cmp(&b.1.links_away),
        // What cannot be reached is deepest of all.
        SortBy::Depth => a.1.depth.unwrap_or(u32::MAX).cmp(&b.1.depth.unwrap_or(u32::MAX)),
    }
}
