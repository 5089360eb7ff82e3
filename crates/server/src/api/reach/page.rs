//! What is to be known of one page's reach.

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::reach::{Over, Soundings};
use strelm_core::site::{Moment, PageId};
use utoipa::ToSchema;

use super::{WAIT, page_ref, thread_pages};
use crate::api::pages::{PageRef, PageRow};
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use strelm_live::{Model, Sounded};

/// Pages that give to a page, or get from it, which are named.
const MOST_NAMED: usize = 8;

/// The reach of a page.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageReach {
    pub page: PageRow,
    /// A shortest way there with the tray, from where readers start up to the page; empty when there is none.
    pub way: Vec<PageRef>,
    /// Clicks as the site stands, without the tray; null when it cannot be reached or is not known yet.
    pub depth_now: Option<u32>,
    /// What all ways there lead over.
    pub thread: Option<ThreadOn>,
    /// Other pages that nobody could reach without it.
    pub hanging: u32,
    pub island: Option<OnIsland>,
    /// Null while it is not known.
    pub equity: Option<PageEquity>,
}

/// What all ways to a page lead over.
#[derive(Debug, Serialize, ToSchema)]
pub struct ThreadOn {
    pub over: PageRef,
    /// Whether it is one link of that page, rather than several.
    pub by_link: bool,
    /// How many pages nobody could reach without it.
    pub hanging: u32,
}

/// The island on which a page is.
#[derive(Debug, Serialize, ToSchema)]
pub struct OnIsland {
    pub pages: usize,
    /// The page whose rescue would open most of it, and how many pages that are.
    pub gate: PageRef,
    pub opened: usize,
}

/// The link equity of a page as the site stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageEquity {
    /// Of the whole site's, 0 to 1.
    pub share: f64,
    /// Beside the average page, which is 1.
    pub beside_average: f64,
    /// From whom it gets most, and to whom it passes most on, as shares of the whole site's.
    pub got: Vec<EquityPart>,
    pub passed: Vec<EquityPart>,
}

/// What goes from one page to another.
#[derive(Debug, Serialize, ToSchema)]
pub struct EquityPart {
    pub page: PageRef,
    pub share: f64,
}

/// O(links of the page and of those on the way).
#[utoipa::path(operation_id = "reach_page", responses((status = 200, body = PageReach), (status = 404, body = Problem)))]
#[get("/sites/{site}/reach/pages/{page}")]
pub async fn show(state: web::Data<State>, path: web::Path<(i32, u32)>) -> Result<web::Json<PageReach>, ApiError> {
    let (site, number) = path.into_inner();
    let live = state.site(site).await?;
    let sounded = live.soundings(Moment::Now, WAIT).await?;
    Ok(web::Json(live.ask(move |model| page_reach(model, &sounded, number)).await??))
}

fn page_reach(model: &Model, sounded: &Sounded, number: u32) -> Result<PageReach, ApiError> {
    let facts = page_of(model, number)?;
    let figures = model.site.figures(facts.id).unwrap_or_default();
    let soundings = sounded.soundings.as_deref();
    let way = model.site.way_to(facts.id).into_iter().map(|page| PageRef::of(model, page.0)).collect::<Result<_, _>>();
    Ok(PageReach {
        page: PageRow::of(model, facts, figures),
        way: way?,
        depth_now: soundings.map_or(figures.depth, |soundings| soundings.depth(facts.id)),
        thread: soundings.and_then(|soundings| {
            let thread = soundings.thread(facts.id)?;
            let (_, over) = thread_pages(soundings, thread)?;
            Some(ThreadOn {
                over: PageRef::of(model, over.0).ok()?,
                by_link: matches!(thread.over, Over::Link(_)),
                hanging: thread.hanging,
            })
        }),
        hanging: soundings.map_or(0, |soundings| soundings.hanging(facts.id)),
        island: soundings.and_then(|soundings| {
            let island = soundings.island(facts.id)?;
            let gate = page_ref(model, soundings, island.gate)?;
            Some(OnIsland { pages: island.pages.len(), gate, opened: island.opened.len() })
        }),
        equity: soundings.and_then(|soundings| equity(model, soundings, facts.id)),
    })
}

fn equity(model: &Model, soundings: &Soundings, page: PageId) -> Option<PageEquity> {
    let number = soundings.snapshot().number_of(page)?;
    let named = |parts: Vec<(u32, f64)>| {
        let part = |(page, share)| Some(EquityPart { page: page_ref(model, soundings, page)?, share });
        parts.into_iter().filter_map(part).take(MOST_NAMED).collect()
    };
    Some(PageEquity {
        share: soundings.share(page)?,
        beside_average: soundings.beside_average(page)?,
        got: named(soundings.equity().got(soundings.reversed(), number)),
        passed: named(soundings.equity().passed(soundings.snapshot(), number)),
    })
}
