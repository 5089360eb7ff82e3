//! Thread pages and islands, as lists.

use actix_web::{HttpResponse, get, web};
use serde::Serialize;
use strelm_core::reach::{Island, Over, Soundings, Thread};
use utoipa::ToSchema;

use super::{page_ref, thread_pages, whole_answer};
use crate::api::pages::PageRef;
use crate::api::{ApiError, Problem, State};
use strelm_live::{Model, WholeAnswer};

/// Rows of each list, at most.
const MOST: usize = 500;

/// Pages that are named of each island.
const MOST_NAMED: usize = 12;

/// What hangs on little, and what hangs together out of reach, as the site stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct Hanging {
    /// Whether it is of this moment; else a fresh answer is on its way.
    pub is_settled: bool,
    /// How many there are; at most 500 are listed.
    pub thread_count: usize,
    pub island_count: usize,
    /// Those on which most hangs first.
    pub threads: Vec<ThreadRow>,
    /// The largest first.
    pub islands: Vec<IslandRow>,
}

/// A page to which all ways lead over one link or one page.
#[derive(Debug, Serialize, ToSchema)]
pub struct ThreadRow {
    pub page: PageRef,
    pub over: PageRef,
    /// Whether it is one link of that page, rather than several.
    pub by_link: bool,
    /// How many pages nobody could reach without it.
    pub hanging: u32,
}

/// Pages that link among themselves and cannot be reached.
#[derive(Debug, Serialize, ToSchema)]
pub struct IslandRow {
    pub size: usize,
    /// The page whose rescue would open most of it, and how many pages that are.
    pub gate: PageRef,
    pub opened: usize,
    /// The first few.
    pub pages: Vec<PageRef>,
}

/// O(rows) once after a change.
#[utoipa::path(operation_id = "reach_hanging", responses((status = 200, body = Hanging), (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/sites/{site}/reach/hanging")]
pub async fn hanging(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    whole_answer(&live, WholeAnswer::Hanging, hanging_of).await
}

fn hanging_of(model: &Model, soundings: &Soundings, is_settled: bool) -> Hanging {
    let threads = soundings.threads().iter().take(MOST).filter_map(|thread| ThreadRow::of(model, soundings, thread));
    let islands = soundings.islands().iter().take(MOST).filter_map(|island| IslandRow::of(model, soundings, island));
    Hanging {
        is_settled,
        thread_count: soundings.threads().len(),
        island_count: soundings.islands().len(),
        threads: threads.collect(),
        islands: islands.collect(),
    }
}

impl ThreadRow {
    /// As far as its pages are still there.
    pub fn of(model: &Model, soundings: &Soundings, thread: &Thread) -> Option<Self> {
        let (page, over) = thread_pages(soundings, thread)?;
        Some(Self {
            page: PageRef::of(model, page.0).ok()?,
            over: PageRef::of(model, over.0).ok()?,
            by_link: matches!(thread.over, Over::Link(_)),
            hanging: thread.hanging,
        })
    }
}

impl IslandRow {
    /// As far as its pages are still there.
    pub fn of(model: &Model, soundings: &Soundings, island: &Island) -> Option<Self> {
        let named = island.pages.iter().take(MOST_NAMED).filter_map(|page| page_ref(model, soundings, *page));
        Some(Self {
            size: island.pages.len(),
            gate: page_ref(model, soundings, island.gate)?,
            opened: island.opened.len(),
            pages: named.collect(),
        })
    }
}
