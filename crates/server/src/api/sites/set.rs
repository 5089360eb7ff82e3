//! Changing what is set for a site.

use actix_web::{HttpResponse, put, web};
use serde::Deserialize;
use strelm_core::site::RoadRules;
use strelm_store::SiteId;
use strelm_store::site::{self, Settings, SiteSource};
use url::Url;
use utoipa::ToSchema;

use super::look::{FieldProblem, check_interface, checked_endpoint};
use super::typed::{
    EquityWish, PartWish, ReadEvery, Roads, checked_entries, checked_name, checked_parameters, checked_part,
};
use crate::api::{ApiError, Problem, State};

/// Settings as an editor changed them.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ChangedSettings {
    name: String,
    micropub: Option<String>,
    /// A new token; null leaves the one that is there.
    token: Option<String>,
    /// Whether releases may change the files of a folder; null leaves it as it is.
    writes: Option<bool>,
    entries: Vec<String>,
    roads: Roads,
    /// Whether links that ask not to be followed are no roads; null leaves it as it is.
    heeds_nofollow: Option<bool>,
    /// How link equity is counted; null leaves it as it is.
    equity: Option<EquityWish>,
    most_pages: i32,
    delay_ms: i32,
    ignored_parameters: Vec<String>,
    read_every: ReadEvery,
    /// How addresses begin that are read, and how those begin that are not; null leaves both as they are.
    part: Option<PartWish>,
}

/// Sets what is to hold for a site.
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
    let entries = checked_entries(&site.entry, &changed.entries)?;
    let settings = Settings {
        name: checked_name(&changed.name)?,
        source: site.settings.source.clone(),
        entries,
        roads: RoadRules {
            from: changed.roads.into(),
            nofollow: changed.heeds_nofollow.map_or(site.settings.roads.nofollow, |heeds| !heeds),
        },
        equity: match changed.equity {
            Some(wish) => wish.checked()?,
            None => site.settings.equity,
        },
        most_pages: changed.most_pages,
        delay_ms: changed.delay_ms,
        ignored_parameters: checked_parameters(&changed.ignored_parameters)?,
        read_every: changed.read_every.into(),
        part: match &changed.part {
            Some(part) => checked_part(&site.entry, part)?,
            None => site.settings.part.clone(),
        },
    };
    // Nobody is asked, and nothing is kept, before all the rest is as it should be.
    let interface = match &site.settings.source {
        SiteSource::Folder { .. } => None,
        SiteSource::Web { .. } => interface(&state, id, &changed).await?,
    };
    let source = match &site.settings.source {
        SiteSource::Folder { path, writes } => {
            SiteSource::Folder { path: path.clone(), writes: changed.writes.unwrap_or(*writes) }
        }
        SiteSource::Web { .. } => {
            SiteSource::Web { micropub: interface.as_ref().map(|(as_typed, ..)| as_typed.clone()) }
        }
    };
    let internal = |error: std::io::Error| ApiError::Internal(error.into());
    let before = state.secrets.kept(id).map_err(internal)?;
    match &interface {
        Some((_, endpoint, Some(token))) => state.secrets.set_token(id, endpoint, token).map_err(internal)?,
        Some((.., None)) => {}
        None => state.secrets.remove_token(id).map_err(internal)?,
    }
    // Both or neither.
    match site::set(&state.pool, id, &Settings { source, ..settings }).await {
        Ok(Some(_)) => Ok(HttpResponse::NoContent().finish()),
        refused => {
            state.secrets.put_back(id, before).map_err(internal)?;
            refused?;
            Err(ApiError::NotFound("There is no such site."))
        }
    }
}

/// The editing interface as it was typed and as an address, and a new token, after both were tried together.
async fn interface(
    state: &State,
    id: SiteId,
    changed: &ChangedSettings,
) -> Result<Option<(String, Url, Option<String>)>, ApiError> {
    let typed = changed.micropub.as_deref().map(str::trim).filter(|text| !text.is_empty());
    let Some(typed) = typed else { return Ok(None) };
    let unusable = |problem: FieldProblem| ApiError::Unusable(problem.message);
    let endpoint = checked_endpoint(typed).map_err(unusable)?;
    let new = changed.token.as_deref().map(str::trim).filter(|token| !token.is_empty()).map(str::to_owned);
    let token = match &new {
        Some(token) => token.clone(),
        None => {
            let kept = state.secrets.token(id, &endpoint).map_err(|error| ApiError::Internal(error.into()))?;
            kept.ok_or_else(|| {
                let host = endpoint.host_str().unwrap_or_default();
                ApiError::Unusable(format!("There is no token for {host} yet. Type the one that {host} gave you."))
            })?
        }
    };
    check_interface(state, &endpoint, Some(&token)).await.map_err(unusable)?;
    Ok(Some((typed.to_owned(), endpoint, new)))
}
