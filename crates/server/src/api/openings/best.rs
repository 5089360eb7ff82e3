//! The best openings of some pages, to be looked at before they are taken together.

use std::collections::HashMap;

use actix_web::{post, web};
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use strelm_core::language::fold;
use strelm_core::openings::{Manners, Opening};
use strelm_core::site::PageId;
use utoipa::ToSchema;

use crate::api::pages::{OpeningRow, PageRef};
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

const MOST_PAGES: usize = 500;
const MOST_EACH: usize = 20;

/// Links to the pages, or from them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Direction {
    /// Links that lead to the pages.
    In,
    /// Links that lead away from them.
    Out,
}

/// For which pages the best openings are asked, and how many.
#[derive(Debug, Deserialize, ToSchema)]
pub struct BestWish {
    pages: Vec<u32>,
    direction: Direction,
    /// Openings for each page, at most.
    each: usize,
    /// 0 to 100.
    least_fit: f64,
}

/// The best openings of one page.
#[derive(Debug, Serialize, ToSchema)]
pub struct BestOfPage {
    pub page: PageRef,
    pub openings: Vec<OpeningRow>,
}

/// O(openings of the pages). Those of one page keep the others in mind: no words twice, no target too often in the same
/// words.
#[utoipa::path(operation_id = "openings_best", responses((status = 200, body = [BestOfPage]), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/sites/{site}/openings/best")]
pub async fn best(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<BestWish>,
) -> Result<web::Json<Vec<BestOfPage>>, ApiError> {
    if wish.pages.len() > MOST_PAGES {
        return Err(ApiError::Unusable(format!("Select at most {MOST_PAGES} pages at a time.")));
    }
    let live = state.whole_site(*path).await?;
    let wish = wish.into_inner();
    Ok(web::Json(live.ask(move |model| best_of(model, &wish)).await??))
}

fn best_of(model: &Model, wish: &BestWish) -> Result<Vec<BestOfPage>, ApiError> {
    let each = wish.each.clamp(1, MOST_EACH);
    let mut worn: FxHashMap<(String, PageId), usize> = model.tray.worn().clone();
    let mut used: HashMap<PageId, Vec<strelm_core::document::TextSpan>> = HashMap::new();
    let mut pairs: std::collections::HashSet<(PageId, PageId)> = std::collections::HashSet::new();
    let mut pages = Vec::with_capacity(wish.pages.len());
    for number in &wish.pages {
        let page = page_of(model, *number)?.id;
        let found = match wish.direction {
            Direction::In => model.openings_in(page),
            Direction::Out => model.openings_out_with(page, Manners { worn: Some(&worn), ..model.manners() }),
        };
        let is_free = |used: &HashMap<PageId, Vec<_>>, opening: &Opening| {
            let on_page = used.get(&opening.source);
            !on_page.is_some_and(|spans| {
                spans.iter().any(|span: &strelm_core::document::TextSpan| span.overlaps(opening.words))
            })
        };
        let mut chosen = Vec::new();
        for opening in found.into_iter().filter(|opening| opening.fit.total() >= wish.least_fit) {
            if chosen.len() == each {
                break;
            }
            if !is_free(&used, &opening) || !pairs.insert((opening.source, opening.target)) {
                continue;
            }
            let row = OpeningRow::of(
                model,
                &opening,
                match wish.direction {
                    Direction::In => opening.source.0,
                    Direction::Out => opening.target.0,
                },
            )?;
            used.entry(opening.source).or_default().push(opening.words);
            *worn.entry((fold(&row.sentence.anchor), opening.target)).or_default() += 1;
            chosen.push(row);
        }
        pages.push(BestOfPage { page: PageRef::of(model, *number)?, openings: chosen });
    }
    Ok(pages)
}
