//! A picture of the site, for showing its pages: fetched by us, from the site's own host or folder only, and never run.

use std::path::Path;

use actix_web::http::header::{CACHE_CONTROL, CONTENT_SECURITY_POLICY};
use actix_web::{HttpResponse, get, web};
use serde::Deserialize;
use strelm_core::site::Address;
use strelm_sources::fetch::{Body, FetchLimits, Fetched, fetch};
use strelm_sources::folder::Folder;
use strelm_store::SiteId;
use strelm_store::site::{self, SiteSource};
use utoipa::IntoParams;

use crate::api::{ApiError, Problem, State};

const MOST_BYTES: usize = 4 * 1024 * 1024;

/// Which picture is asked for.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    /// Absolute address of a picture on the site.
    address: String,
}

/// A picture of a page, fetched from the site itself.
#[utoipa::path(operation_id = "pictures_show", params(Query), responses((status = 200, content_type = "image/*"), (status = 404, body = Problem)))]
#[get("/sites/{site}/pictures")]
pub async fn show(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<HttpResponse, ApiError> {
    const NONE: ApiError = ApiError::NotFound("There is no such picture on this site.");
    let live = state.site(*path).await?;
    let address = Address::parse(&query.address).map_err(|_| NONE)?;
    let asked = address.clone();
    let entry = live.ask(move |model| model.site.is_own(&asked).then(|| model.site.entry().clone())).await?;
    // A page may show pictures that are not there, or are another site's: no error, and nothing is asked of others.
    let Some(entry) = entry else { return Ok(placeholder()) };
    let settings = site::get(&state.pool, SiteId(*path)).await?.ok_or(NONE)?.settings;
    let (bytes, media_type) = match settings.source {
        SiteSource::Folder { path, .. } => {
            let real = state.folders.allowed(Path::new(&path)).map_err(|_| NONE)?;
            let read = web::block(move || Folder::open(&real, entry).ok()?.picture(&address, MOST_BYTES as u64)).await;
            let Some(read) = read.ok().flatten() else { return Ok(placeholder()) };
            read
        }
        SiteSource::Web { .. } => {
            let limits = FetchLimits { most_bytes: MOST_BYTES, ..FetchLimits::default() };
            let is_picture = |kind: &str| kind.starts_with("image/");
            match fetch(&state.client, &address, limits, is_picture).await {
                Ok(Fetched { body: Body::Bytes(bytes), media_type, .. }) => (bytes, media_type),
                _ => return Ok(placeholder()),
            }
        }
    };
    Ok(HttpResponse::Ok()
        .content_type(media_type)
        .insert_header((CONTENT_SECURITY_POLICY, "default-src 'none'; style-src 'unsafe-inline'; sandbox"))
        .insert_header((CACHE_CONTROL, "private, max-age=300"))
        .body(bytes))
}

/// A quiet frame in the place of a picture that cannot be shown.
const PLACEHOLDER: &str = r##"<svg xmlns="http://www.w3.org/2000/svg" width="96" height="64" viewBox="0 0 96 64"><rect x=".5" y=".5" width="95" height="63" rx="4" fill="none" stroke="#8a94a0" stroke-dasharray="4 4"/><path d="M30 44l12-16 9 11 6-7 9 12z" fill="none" stroke="#8a94a0" stroke-width="2" stroke-linejoin="round"/></svg>"##;

fn placeholder() -> HttpResponse {
    HttpResponse::Ok()
        .content_type("image/svg+xml")
        .insert_header((CONTENT_SECURITY_POLICY, "default-src 'none'; sandbox"))
        .insert_header((CACHE_CONTROL, "private, max-age=60"))
        .insert_header(("x-picture", "missing"))
        .body(PLACEHOLDER)
}
