//! Link equity: which pages, categories and kinds hoard it and which starve, as the site stands and with the tray.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, web};
use serde::Serialize;
use strelm_core::reach::Soundings;
use strelm_core::site::{Moment, PageFacts, PageId};
use utoipa::ToSchema;

use super::{WAIT, whole_answer};
use crate::api::pages::PageRef;
use crate::api::sites::typed::EquityWish;
use crate::api::{ApiError, Problem, State};
use strelm_live::{Model, WholeAnswer};

/// Pages that are named on either end.
const MOST_NAMED: usize = 12;

/// The link equity of a site.
#[derive(Debug, Serialize, ToSchema)]
pub struct SiteEquity {
    /// Whether it is of this moment; else a fresh answer is on its way.
    pub is_settled: bool,
    /// Whether anything in the tray changes it.
    pub with_tray: bool,
    pub rules: EquityWish,
    pub categories: Vec<EquityGroup>,
    pub kinds: Vec<EquityGroup>,
    /// The pages with most of it; and those with text that have least, beside what they say.
    pub most: Vec<EquityOfPage>,
    pub least: Vec<EquityOfPage>,
    /// The pages that the tray moves most.
    pub moved: Vec<EquityOfPage>,
}

/// Pages of one category or kind.
#[derive(Debug, Serialize, ToSchema)]
pub struct EquityGroup {
    /// Null for pages without a category.
    pub name: Option<String>,
    pub pages: u32,
    /// Of the whole site's, 0 to 1: as the site stands and with the tray.
    pub now: f64,
    pub after: f64,
}

/// A page with what it has, beside the average page, which is 1.
#[derive(Debug, Serialize, ToSchema)]
pub struct EquityOfPage {
    pub page: PageRef,
    pub now: f64,
    pub after: f64,
}

/// O(pages · log pages) once after a change.
#[utoipa::path(operation_id = "reach_equity", responses((status = 200, body = SiteEquity), (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/sites/{site}/reach/equity")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    live.soundings(Moment::WithTray, WAIT).await?;
    whole_answer(&live, WholeAnswer::Equity, equity_of).await
}

fn equity_of(model: &Model, before: &Soundings, is_settled: bool) -> SiteEquity {
    let after = model.sounded(Moment::WithTray);
    let with_tray = after.soundings.as_deref().unwrap_or(before);
    let groups = |name: &dyn Fn(&PageFacts) -> Option<String>| {
        let mut groups: BTreeMap<Option<String>, EquityGroup> = BTreeMap::new();
        for page in model.site.pages() {
            let name = name(page);
            let group = groups.entry(name.clone()).or_insert(EquityGroup { name, pages: 0, now: 0.0, after: 0.0 });
            group.pages += 1;
            group.now += before.share(page.id).unwrap_or_default();
            group.after += with_tray.share(page.id).unwrap_or_default();
        }
        let mut groups: Vec<EquityGroup> = groups.into_values().collect();
        groups.sort_by(|one, other| other.now.total_cmp(&one.now).then_with(|| one.name.cmp(&other.name)));
        groups
    };
    let beside = |soundings: &Soundings, page: PageId| soundings.beside_average(page).unwrap_or_default();
    let mut pages: Vec<(PageId, f64, f64)> =
        model.site.pages().map(|page| (page.id, beside(before, page.id), beside(with_tray, page.id))).collect();
    let row = |(page, now, after): &(PageId, f64, f64)| {
        Some(EquityOfPage { page: PageRef::of(model, page.0).ok()?, now: *now, after: *after })
    };
    let rows = |pages: &[(PageId, f64, f64)]| pages.iter().take(MOST_NAMED).filter_map(row).collect();
    pages.sort_by(|one, other| other.1.total_cmp(&one.1).then(one.0.cmp(&other.0)));
    let most = rows(&pages);
    let has_text = |page: PageId| model.site.page(page).is_some_and(|page| page.words > 0);
    let starving: Vec<_> = pages.iter().rev().filter(|(page, ..)| has_text(*page)).copied().collect();
    let least = rows(&starving);
    pages.retain(|(_, now, after)| (after - now).abs() > 0.005);
    pages.sort_by(|one, other| (other.2 - other.1).abs().total_cmp(&(one.2 - one.1).abs()).then(one.0.cmp(&other.0)));
    SiteEquity {
        is_settled: is_settled && after.is_fresh,
        with_tray: model.site.has_planned(),
        rules: model.equity_rules().into(),
        categories: groups(&|page| page.category.clone()),
        kinds: groups(&|page| Some(page.kind.as_str().to_owned())),
        most,
        least,
        moved: rows(&pages),
    }
}
