//! What is set for a site. Its token is never shown, only whether there is one.

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::site::Address;
use strelm_store::SiteId;
use strelm_store::site::{self, SiteSource};
use url::Url;
use utoipa::ToSchema;

use super::typed::{EquityWish, PartWish, ReadEvery, Roads};
use crate::api::{ApiError, Problem, State};

/// What is set for a site.
#[derive(Debug, Serialize, ToSchema)]
pub struct SiteSettings {
    pub name: String,
    pub entry: String,
    /// The folder from which it is read; null for a live site.
    pub folder: Option<String>,
    /// Whether releases may change its files.
    pub writes: bool,
    /// How a link between two pages in one part of a folder is written; null for a live site.
    pub link_example: Option<String>,
    pub micropub: Option<String>,
    /// The editing interface that the entry page names.
    pub named_micropub: Option<String>,
    pub has_token: bool,
    /// Further pages on which readers start.
    pub entries: Vec<String>,
    pub roads: Roads,
    /// Whether links that ask not to be followed are no roads.
    pub heeds_nofollow: bool,
    /// How link equity is counted.
    pub equity: EquityWish,
    pub most_pages: i32,
    pub delay_ms: i32,
    /// Parameters of addresses that change nothing on the page; a name that ends in `*` stands for all that begin so.
    pub ignored_parameters: Vec<String>,
    pub read_every: ReadEvery,
    /// Which part of it is read.
    pub part: PartWish,
}

/// What is set for a site. Needs no model.
#[utoipa::path(operation_id = "sites_settings", responses((status = 200, body = SiteSettings), (status = 404, body = Problem)))]
#[get("/sites/{site}/settings")]
pub async fn settings(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<SiteSettings>, ApiError> {
    let id = SiteId(*path);
    let site = site::get(&state.pool, id).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    let link_example = site.form_of_links().map(|form| form.write(&example("one"), &example("another")));
    let (folder, writes, micropub) = match site.settings.source {
        SiteSource::Folder { path, writes } => (Some(path), writes, None),
        SiteSource::Web { micropub } => (None, false, micropub),
    };
    let endpoint = micropub.as_deref().and_then(|text| Url::parse(text).ok());
    let token = endpoint.map(|endpoint| state.secrets.token(id, &endpoint)).transpose();
    let token = token.map_err(|error| ApiError::Internal(error.into()))?.flatten();
    Ok(web::Json(SiteSettings {
        name: site.settings.name,
        entry: site.entry.to_string(),
        folder,
        writes,
        link_example,
        micropub,
        named_micropub: site.named_micropub,
        has_token: token.is_some(),
        entries: site.settings.entries.iter().map(ToString::to_string).collect(),
        roads: site.settings.roads.from.into(),
        heeds_nofollow: !site.settings.roads.nofollow,
        equity: site.settings.equity.into(),
        most_pages: site.settings.most_pages,
        delay_ms: site.settings.delay_ms,
        ignored_parameters: site.settings.ignored_parameters,
        read_every: site.settings.read_every.into(),
        part: PartWish { within: site.settings.part.within, without: site.settings.part.without },
    }))
}

/// An address such as those of a folder's pages.
fn example(name: &str) -> Address {
    #[allow(clippy::expect_used, reason = "a fixed address")]
    Address::parse(&format!("http://folder.invalid/part/{name}-page.html")).expect("an address")
}
