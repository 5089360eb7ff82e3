//! Changing what is set for a site.

use actix_web::{HttpResponse, put, web};
use serde::{Deserialize, Serialize};
use strelm_core::site::{Address, Part};
use strelm_store::SiteId;
use strelm_store::site::{self, Settings, Source};
use url::Url;
use utoipa::ToSchema;

use super::add::checked_name;
use super::look::{FieldProblem, check_interface, checked_endpoint};
use super::settings::{ReadEvery, Roads};
use crate::api::{ApiError, Problem, State};

const MOST_ENTRIES: usize = 50;
const MOST_PARAMETERS: usize = 100;
const LONGEST_PARAMETER: usize = 100;
const MOST_PATTERNS: usize = 50;
const LONGEST_PATTERN: usize = 500;

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
    most_pages: i32,
    delay_ms: i32,
    ignored_parameters: Vec<String>,
    read_every: ReadEvery,
    /// How addresses begin that are read, and how those begin that are not; null leaves both as they are.
    part: Option<PartWish>,
}

/// A part of a site.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
pub struct PartWish {
    /// Paths, in which `*` stands for anything; without any all of the site is read.
    pub within: Vec<String>,
    pub without: Vec<String>,
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
    let settings = Settings {
        name: checked_name(&changed.name)?,
        source: site.settings.source.clone(),
        entries,
        roads: changed.roads.into(),
        most_pages: changed.most_pages,
        delay_ms: changed.delay_ms,
        ignored_parameters: parameters(&changed.ignored_parameters)?,
        read_every: changed.read_every.into(),
        part: match &changed.part {
            Some(part) => checked_part(&site.entry, part)?,
            None => site.settings.part.clone(),
        },
    };
    // Nobody is asked, and nothing is kept, before all the rest is as it should be.
    let interface = match &site.settings.source {
        Source::Folder { .. } => None,
        Source::Web { .. } => interface(&state, id, &changed).await?,
    };
    let source = match &site.settings.source {
        Source::Folder { path, writes } => {
            Source::Folder { path: path.clone(), writes: changed.writes.unwrap_or(*writes) }
        }
        Source::Web { .. } => Source::Web { micropub: interface.as_ref().map(|(as_typed, ..)| as_typed.clone()) },
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
        if entries.len() > MOST_ENTRIES {
            return Err(ApiError::Unusable(format!("A site has at most {MOST_ENTRIES} entry pages.")));
        }
    }
    Ok(entries)
}

/// A part of a site as people type it: paths, or whole addresses of the site.
pub fn checked_part(entry: &Address, typed: &PartWish) -> Result<Part, ApiError> {
    let unusable = |text: &str| {
        ApiError::Unusable(format!("“{text}” is not how an address of this site begins. Write paths such as /docs/."))
    };
    let pattern = |text: &str| {
        let own = text.strip_prefix(entry.as_str().trim_end_matches(entry.as_url().path())).unwrap_or(text);
        let is_path = own.starts_with(['/', '*']) && !own.contains(char::is_whitespace) && own.len() <= LONGEST_PATTERN;
        if is_path { Ok(own.to_owned()) } else { Err(unusable(text)) }
    };
    let patterns = |typed: &[String]| -> Result<Vec<String>, ApiError> {
        let lines = typed.iter().flat_map(|lines| lines.lines()).map(str::trim).filter(|line| !line.is_empty());
        let patterns: Vec<_> = lines.map(pattern).collect::<Result<_, _>>()?;
        match patterns.len() {
            0..=MOST_PATTERNS => Ok(patterns),
            _ => Err(ApiError::Unusable(format!("At most {MOST_PATTERNS} beginnings can be named."))),
        }
    };
    Ok(Part { within: patterns(&typed.within)?, without: patterns(&typed.without)? })
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
        if names.len() > MOST_PARAMETERS {
            return Err(ApiError::Unusable(format!("At most {MOST_PARAMETERS} parameters can be named.")));
        }
    }
    Ok(names)
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
