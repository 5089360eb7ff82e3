//! Hosts to which the site leads, and the addresses of one.

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::destinations::{AwayAddress, AwayCount, AwayHost};
use strelm_live::Model;
use utoipa::{IntoParams, ToSchema};

use crate::api::pages::Window;
use crate::api::{ApiError, Problem, State};

/// The largest window.
const MOST_ROWS: usize = 500;

/// Which destinations, in which order.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct DestinationFilter {
    /// What a host or an address must hold, in any case.
    #[serde(default)]
    text: String,
    /// The addresses of this host, rather than hosts.
    host: Option<String>,
    /// All addresses, rather than hosts.
    #[serde(default)]
    addresses: bool,
    #[serde(default)]
    #[param(inline)]
    sort: DestinationSort,
    #[serde(default)]
    descending: bool,
}

/// By what destinations are sorted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DestinationSort {
    Name,
    #[default]
    Links,
    Pages,
    Addresses,
    Nofollow,
    Sponsored,
    NewTab,
}

/// A stretch of the destinations.
#[derive(Debug, Serialize, ToSchema)]
pub struct DestinationRows {
    /// How many pass the filters.
    pub total: usize,
    /// All hosts of the site.
    pub hosts: usize,
    /// Pages whose texts are on their way into memory: their links are not counted yet.
    pub texts_to_come: Option<usize>,
    pub rows: Vec<DestinationRow>,
}

/// A host or an address with what is counted of its links.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DestinationRow {
    /// A host; mail, phone and text messages by their schemes; or an address.
    pub name: String,
    /// Of a host how many addresses it has.
    pub addresses: usize,
    /// Links in the content of pages, and pages with such.
    pub links: usize,
    pub pages: usize,
    /// Links in menus, headers and footers.
    pub repeated: usize,
    /// Of all of them.
    pub nofollow: usize,
    pub sponsored: usize,
    pub ugc: usize,
    pub new_tab: usize,
}

impl DestinationRow {
    fn of(name: &str, addresses: usize, counted: AwayCount) -> Self {
        let AwayCount { links, pages, repeated, nofollow, sponsored, user_content, new_tab } = counted;
        Self {
            name: name.to_owned(),
            addresses,
            links,
            pages,
            repeated,
            nofollow,
            sponsored,
            ugc: user_content,
            new_tab,
        }
    }

    const fn figure(&self, sort: DestinationSort) -> usize {
        match sort {
            DestinationSort::Links => self.links,
            DestinationSort::Pages => self.pages,
            DestinationSort::Addresses => self.addresses,
            DestinationSort::Nofollow => self.nofollow,
            DestinationSort::Sponsored => self.sponsored,
            DestinationSort::NewTab => self.new_tab,
            DestinationSort::Name => 0,
        }
    }
}

/// O(addresses · log addresses), in memory; the first window after a change of texts also counts all links.
#[utoipa::path(operation_id = "destinations_list", params(DestinationFilter, Window), responses((status = 200, body = DestinationRows), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[get("/sites/{site}/destinations")]
pub async fn list(
    state: web::Data<State>,
    path: web::Path<i32>,
    filter: web::Query<DestinationFilter>,
    window: web::Query<Window>,
) -> Result<web::Json<DestinationRows>, ApiError> {
    let live = state.site(*path).await?;
    let filter = filter.into_inner();
    let (offset, limit) = window.stretch(MOST_ROWS);
    let look = move || {
        live.look(|model: &Model| {
            let mut rows = rows(model, &filter);
            match (filter.sort, filter.descending) {
                (DestinationSort::Name, false) => rows.sort_by(|one, other| one.name.cmp(&other.name)),
                (DestinationSort::Name, true) => rows.sort_by(|one, other| other.name.cmp(&one.name)),
                (sort, true) => rows.sort_by_key(|row| std::cmp::Reverse(row.figure(sort))),
                (sort, false) => rows.sort_by_key(|row| row.figure(sort)),
            }
            DestinationRows {
                total: rows.len(),
                hosts: model.destinations().hosts.len(),
                texts_to_come: model.texts_missing(),
                rows: rows.into_iter().skip(offset).take(limit).collect(),
            }
        })
    };
    Ok(web::Json(state.aside(look).await?))
}

/// What is asked for, those with the most links first.
fn rows(model: &Model, filter: &DestinationFilter) -> Vec<DestinationRow> {
    let destinations = model.destinations();
    let wanted = filter.text.trim().to_lowercase();
    let holds = |name: &str| wanted.is_empty() || name.to_lowercase().contains(&wanted);
    let of_address = |one: &AwayAddress| DestinationRow::of(&one.address, 0, one.counted);
    let mut rows: Vec<_> = match &filter.host {
        Some(host) => destinations.addresses(host).iter().filter(|one| holds(&one.address)).map(of_address).collect(),
        None if filter.addresses => {
            let all = destinations.hosts.iter().flat_map(|(_, addresses)| addresses);
            all.filter(|one| holds(&one.address)).map(of_address).collect()
        }
        None => {
            // A host is found by its addresses, too.
            let is_found = |(host, addresses): &&(AwayHost, Vec<AwayAddress>)| {
                holds(&host.host) || addresses.iter().any(|one| holds(&one.address))
            };
            let of_host =
                |(host, _): &(AwayHost, Vec<AwayAddress>)| DestinationRow::of(&host.host, host.addresses, host.counted);
            destinations.hosts.iter().filter(is_found).map(of_host).collect()
        }
    };
    rows.sort_by_key(|row| std::cmp::Reverse((row.links, row.repeated)));
    rows
}
