//! The chart of soundings: all pages of a site in columns, so that a large one is small to send.

use std::collections::BTreeMap;
use std::time::Duration;

use actix_web::{HttpResponse, get, web};
use serde::Serialize;
use strelm_core::audit::Lacking;
use strelm_core::reach::Soundings;
use strelm_core::site::{Moment, PageFacts, PageId, PageKind};
use utoipa::ToSchema;

use super::{json, sent};
use crate::api::pages::Kind;
use crate::api::{ApiError, Problem, State};
use strelm_live::{Model, WholeAnswer};

/// How long the chart waits for what is worked out in the background: it is drawn without it, too.
const AT_ONCE: Duration = Duration::from_millis(40);

/// How many pages there are in one click depth.
#[derive(Debug, Serialize, ToSchema)]
pub struct Band {
    /// Clicks from where readers start; null for pages that cannot be reached.
    pub depth: Option<u32>,
    /// As the site stands.
    pub now: u32,
    /// With the tray.
    pub after: u32,
}

/// All pages. The columns have one value for each, in the order of addresses.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReachChart {
    /// Whether equity, threads, islands and depths without the tray are those of this moment; else they are on their way.
    pub is_settled: bool,
    /// From where readers start down to what cannot be reached; bands without pages are left out.
    pub bands: Vec<Band>,
    pub categories: Vec<String>,
    pub kinds: Vec<Kind>,
    pub numbers: Vec<u32>,
    /// Clicks with the tray; null when a page cannot be reached.
    pub depths: Vec<Option<u32>>,
    /// The same as the site stands; empty where the tray changes nothing.
    pub depths_now: Vec<Option<u32>>,
    /// Link equity beside that of the average page, which is 1; empty while it is not known.
    pub equity: Vec<f32>,
    /// Places in `categories`, null for pages without one; and in `kinds`.
    pub category: Vec<Option<u32>>,
    pub kind: Vec<u32>,
    /// Places in the columns: pages on which readers start, to which nothing links, that lead nowhere, that hang on one link
    /// or page, and that are on an island.
    pub entries: Vec<u32>,
    pub orphans: Vec<u32>,
    pub dead_ends: Vec<u32>,
    pub threads: Vec<u32>,
    pub islands: Vec<u32>,
}

/// O(pages · log pages) in memory once after a change, then O(bytes).
#[utoipa::path(operation_id = "reach_chart", responses((status = 200, body = ReachChart), (status = 404, body = Problem)))]
#[get("/sites/{site}/reach")]
pub async fn chart(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    // Depths are always there; of a large site the rest may come a moment later.
    live.soundings(Moment::Now, AT_ONCE).await?;
    let answer = |model: &Model| model.whole_answer(WholeAnswer::Chart, || json(&chart_of(model)));
    Ok(sent(&live.ask(answer).await?))
}

fn chart_of(model: &Model) -> ReachChart {
    let sounded = model.sounded(Moment::Now);
    let mut pages: Vec<&PageFacts> = model.site.pages().collect();
    pages.sort_unstable_by(|one, other| one.address.cmp(&other.address));
    let soundings = sounded.soundings.as_deref();
    let depth = |page: &PageFacts| model.site.depth(page.id);
    let with_tray = model.site.has_planned();
    let depths: Vec<Option<u32>> = pages.iter().map(|page| depth(page)).collect();
    let now = |page: &PageFacts| soundings.map_or_else(|| depth(page), |soundings| soundings.depth(page.id));
    let depths_now: Vec<Option<u32>> =
        if with_tray { pages.iter().map(|page| now(page)).collect() } else { Vec::new() };
    let known: BTreeMap<&str, u32> = {
        let mut names: Vec<&str> = pages.iter().filter_map(|page| page.category.as_deref()).collect();
        names.sort_unstable();
        names.dedup();
        names.into_iter().zip(0..).collect()
    };
    let at_true = |is_true: &dyn Fn(&PageFacts) -> bool| -> Vec<u32> {
        (0..).zip(&pages).filter(|(_, page)| is_true(page)).map(|(at, _)| at).collect()
    };
    let (mut orphans, mut dead_ends) = (Vec::new(), Vec::new());
    for (at, page) in (0..).zip(&pages) {
        let Some(figures) = model.site.figures(page.id) else { continue };
        let lacks = |lacking: Lacking| lacking.is_true_of(&model.site, page, &figures);
        for (places, lacking) in [(&mut orphans, Lacking::LinksIn), (&mut dead_ends, Lacking::LinksOut)] {
            if lacks(lacking) {
                places.push(at);
            }
        }
    }
    let of_soundings = |is_true: &dyn Fn(&Soundings, PageId) -> bool| {
        at_true(&|page: &PageFacts| soundings.is_some_and(|soundings| is_true(soundings, page.id)))
    };
    let share = |page: &PageFacts| soundings.and_then(|soundings| soundings.beside_average(page.id));
    ReachChart {
        is_settled: sounded.is_fresh,
        bands: bands(&depths, if with_tray { &depths_now } else { &depths }),
        kinds: PageKind::ALL.map(Kind::from).to_vec(),
        numbers: pages.iter().map(|page| page.id.0).collect(),
        equity: match soundings {
            Some(_) => pages.iter().map(|page| rounded(share(page).unwrap_or_default())).collect(),
            None => Vec::new(),
        },
        category: pages.iter().map(|page| known.get(page.category.as_deref()?).copied()).collect(),
        kind: pages.iter().map(|page| page.kind as u32).collect(),
        categories: known.keys().map(|name| (*name).to_owned()).collect(),
        entries: at_true(&|page| model.site.is_entry(page.id)),
        orphans,
        dead_ends,
        threads: of_soundings(&|soundings, page| soundings.thread(page).is_some()),
        islands: of_soundings(&|soundings, page| soundings.island(page).is_some()),
        depths,
        depths_now,
    }
}

/// Three digits are more than a tick can show.
fn rounded(share: f64) -> f32 {
    ((share * 1000.0).round() / 1000.0) as f32
}

/// How many pages there are in each depth, before and after. O(pages · log depths).
pub fn bands(after: &[Option<u32>], now: &[Option<u32>]) -> Vec<Band> {
    // What cannot be reached is deepest of all.
    let key = |depth: &Option<u32>| depth.unwrap_or(u32::MAX);
    let mut counts: BTreeMap<u32, (u32, u32)> = BTreeMap::new();
    now.iter().for_each(|depth| counts.entry(key(depth)).or_default().0 += 1);
    after.iter().for_each(|depth| counts.entry(key(depth)).or_default().1 += 1);
    let band =
        |(depth, (now, after)): (u32, (u32, u32))| Band { depth: (depth != u32::MAX).then_some(depth), now, after };
    counts.into_iter().map(band).collect()
}
