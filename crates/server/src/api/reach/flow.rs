//! How links lead from category to category, or from kind to kind.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, web};
use serde::{Deserialize, Serialize};
use strelm_core::reach::{Carrier, Flow, Road, Soundings};
use strelm_core::site::PageFacts;
use utoipa::{IntoParams, ToSchema};

use super::{page_ref, whole_answer};
use crate::api::pages::PageRef;
use crate::api::{ApiError, Problem, State};
use strelm_live::{Model, WholeAnswer};

/// Groups that are told apart, the largest; a matrix of more cannot be read.
const MOST_GROUPS: usize = 40;

/// Pages that are named.
const MOST_NAMED: usize = 200;

/// By what pages are grouped.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum GroupedBy {
    #[default]
    Category,
    Kind,
}

/// What is asked for.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[serde(default)]
    #[param(inline)]
    by: GroupedBy,
    /// Whether links in menus, headers and footers count beside those in the text.
    #[serde(default)]
    around: bool,
}

/// Links between groups of pages, as the site stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkFlow {
    /// Whether it is of this moment; else a fresh answer is on its way.
    pub is_settled: bool,
    /// In the order of their names; pages without a group come last, and beyond 40 groups the small ones are together.
    pub groups: Vec<FlowGroup>,
    /// Pairs of pages that links connect, by the places of their groups.
    pub cells: Vec<FlowLinks>,
    /// How many pages link, and all their links lead out of their group; at most 200 are named.
    pub stray_count: usize,
    pub strays: Vec<PageRef>,
}

/// A group of pages.
#[derive(Debug, Serialize, ToSchema)]
pub struct FlowGroup {
    /// Null for pages without one.
    pub name: Option<String>,
    pub pages: u32,
    /// Links that lead from it, and those of them that stay inside.
    pub links: u32,
    pub inside: u32,
}

/// The links from one group to another.
#[derive(Debug, Serialize, ToSchema)]
pub struct FlowLinks {
    pub from: u32,
    pub to: u32,
    pub links: u32,
}

/// O(pages + links) once after a change.
#[utoipa::path(operation_id = "reach_flow", params(Query), responses((status = 200, body = LinkFlow), (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/sites/{site}/reach/flow")]
pub async fn show(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let Query { by, around } = query.into_inner();
    let which = WholeAnswer::Flow { by_kind: by == GroupedBy::Kind, around };
    whole_answer(&live, which, move |model, soundings, is_settled| LinkFlow {
        is_settled,
        ..flow_of(model, soundings, by, around)
    })
    .await
}

fn flow_of(model: &Model, soundings: &Soundings, by: GroupedBy, around: bool) -> LinkFlow {
    let name_of = |page: &PageFacts| match by {
        GroupedBy::Category => page.category.clone(),
        GroupedBy::Kind => Some(page.kind.as_str().to_owned()),
    };
    let mut sizes: BTreeMap<String, u32> = BTreeMap::new();
    model.site.pages().filter_map(name_of).for_each(|name| *sizes.entry(name).or_default() += 1);
    let mut names: Vec<(String, u32)> = sizes.into_iter().collect();
    names.sort_by(|one, other| other.1.cmp(&one.1).then_with(|| one.0.cmp(&other.0)));
    names.truncate(MOST_GROUPS);
    names.sort();
    let place: BTreeMap<&str, u32> = names.iter().map(|(name, _)| name.as_str()).zip(0..).collect();
    let others = u32::try_from(place.len()).unwrap_or(u32::MAX);
    let snapshot = soundings.snapshot();
    let group = |number: u32| {
        let page = model.site.page(snapshot.page(number)?)?;
        Some(name_of(page).and_then(|name| place.get(name.as_str()).copied()).unwrap_or(others))
    };
    let counts = |road: Road| around || road.strength.carrier() == Carrier::Content;
    let flow = Flow::of(snapshot, counts, group);
    let mut pages = vec![0; names.len() + 1];
    snapshot.numbers().filter_map(group).for_each(|at| pages[at as usize] += 1);
    let of_group = |at: u32, name: Option<String>| {
        let (inside, links) = flow.inside(at);
        FlowGroup { name, pages: pages[at as usize], links, inside }
    };
    let mut groups: Vec<FlowGroup> =
        (0..).zip(&names).map(|(at, (name, _))| of_group(at, Some(name.clone()))).collect();
    if pages[others as usize] > 0 {
        groups.push(of_group(others, None));
    }
    // Pages without a subject cannot leave it.
    let strays: Vec<u32> = flow.strays.iter().copied().filter(|page| group(*page) != Some(others)).collect();
    LinkFlow {
        is_settled: false,
        groups,
        cells: flow.cells.iter().map(|cell| FlowLinks { from: cell.from, to: cell.to, links: cell.links }).collect(),
        stray_count: strays.len(),
        strays: strays.iter().take(MOST_NAMED).filter_map(|page| page_ref(model, soundings, *page)).collect(),
    }
}
