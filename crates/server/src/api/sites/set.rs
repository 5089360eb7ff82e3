//! Changing what is set for a site.

use actix_web::{HttpResponse, put, web};
use serde::Deserialize;
use strelm_core::site::Address;
use strelm_store::SiteId;
use strelm_store::site::{self, Settings, Source};
use utoipa::ToSchema;

use super::add::checked_name;
use super::look::check_interface;
use super::settings::{ReadEvery, Roads};
use crate::api::{ApiError, Problem, State};

const MOST_ENTRIES: usize = 50;
const MOST_PARAMETERS: usize = 100;
const LONGEST_PARAMETER: usize = 100;

#[derive(Debug, Deserialize, ToSchema)]
pub struct ChangedSettings {
    name: String,
    micropub: Option<String>,
    /// A new token; null leaves the one that is there.
    token: Option<String>,
    entries: Vec<String>,
    roads: Roads,
    most_pages: i32,
    delay_ms: i32,
    ignored_parameters: Vec<String>,
    read_every: ReadEvery,
}

#[utoipa::path(operation_id = "sites_set", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/sites/{site}/settings")]
pub async fn set(
    state: web::Data<State>,
    path: web::Path<i32>,
    changed: web::Json<ChangedSettings>,
) -> Result<HttpResponse, ApiError> {
    let id = SiteId(*path);
    let site = site::get(&state.pool, id).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    let unusable = |message: &str| ApiError::Unusable(message.to_owned());
    if !(1..=200_000).contains(&changed.most_pages) {
        return Err(unusable("A reading looks at 1 to 200,000 addresses."));
    }
    if !(0..=60_000).contains(&changed.delay_ms) {
        return Err(unusable("The time between requests is at most 60 seconds."));
    }
    let entries = entries(&site.entry, &changed.entries)?;
    let source = match &site.settings.source {
        Source::Folder { path } => Source::Folder { path: path.clone() },
        Source::Web { .. } => Source::Web { micropub: interface(&state, id, &changed).await? },
    };
    let settings = Settings {
        name: checked_name(&changed.name)?,
        source,
        entries,
        roads: changed.roads.into(),
        most_pages: changed.most_pages,
        delay_ms: changed.delay_ms,
        ignored_parameters: parameters(&changed.ignored_parameters)?,
        read_every: changed.read_every.into(),
    };
    site::set(&state.pool, id, &settings).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    Ok(HttpResponse::NoContent().finish())
}

/// Further entry pages: pages of the site, written as paths or whole addresses.
fn entries(entry: &Address, typed: &[String]) -> Result<Vec<Address>, ApiError> {
    let mut entries = Vec::new();
    for text in typed.iter().map(|text| text.trim()).filter(|text| !text.is_empty()) {
        let address = match entry.follow(text) {
            strelm_core::site::Destination::Page { address, .. } if address.same_origin(entry) => address,
            _ => {
                return Err(ApiError::Unusable(format!(
                    "“{text}” is not a page of this site: entry pages begin with / or {entry}"
                )));
            }
        };
        if address != *entry && !entries.contains(&address) {
            entries.push(address);
        }
    }
    if entries.len() > MOST_ENTRIES {
        return Err(ApiError::Unusable(format!("A site has at most {MOST_ENTRIES} entry pages.")));
    }
    Ok(entries)
}

/// Names of parameters as people type them, each once.
fn parameters(typed: &[String]) -> Result<Vec<String>, ApiError> {
    let mut names: Vec<String> = Vec::new();
    let words = typed.iter().flat_map(|line| line.split([',', ';', ' ', '\t']));
    for name in words.map(str::trim).filter(|name| !name.is_empty()) {
        let is_name = name.chars().enumerate().all(|(at, c)| {
            c.is_alphanumeric() || "-_.[]".contains(c) || (c == '*' && at + 1 == name.chars().count() && at > 0)
        });
        if !is_name || name.len() > LONGEST_PARAMETER {
            return Err(ApiError::Unusable(format!(
                "“{name}” is not the name of a parameter. Write names such as ref, or utm_* for all that begin with utm_."
            )));
        }
        if !names.iter().any(|known| known == name) {
            names.push(name.to_owned());
        }
    }
    if names.len() > MOST_PARAMETERS {
        return Err(ApiError::Unusable(format!("At most {MOST_PARAMETERS} parameters can be named.")));
    }
    Ok(names)
}

/// The editing interface, looked at with the new token or the one that is there; a new token is kept.
async fn interface(state: &State, id: SiteId, changed: &ChangedSettings) -> Result<Option<String>, ApiError> {
    let internal = |error: std::io::Error| ApiError::Internal(error.into());
    let endpoint = changed.micropub.as_deref().map(str::trim).filter(|text| !text.is_empty());
    let Some(endpoint) = endpoint else {
        state.secrets.remove_token(id).map_err(internal)?;
        return Ok(None);
    };
    let new = changed.token.as_deref().map(str::trim).filter(|token| !token.is_empty());
    let token = match new {
        Some(token) => Some(token.to_owned()),
        None => state.secrets.token(id).map_err(internal)?,
    };
    check_interface(state, endpoint, token.as_deref()).await.map_err(|problem| ApiError::Unusable(problem.message))?;
    if let Some(token) = new {
        state.secrets.set_token(id, token).map_err(internal)?;
    }
    Ok(Some(endpoint.to_owned()))
}
