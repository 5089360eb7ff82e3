//! What was handed over, as a list to work by: a table, rows for programs, or a page to print.

mod printed;
mod rows;

use actix_web::http::header::{CACHE_CONTROL, CONTENT_DISPOSITION, CONTENT_SECURITY_POLICY};
use actix_web::{HttpResponse, get, web};
use serde::Deserialize;
use strelm_store::release::{self, ReleaseId};
use strelm_store::{SiteId, site, tray};
use utoipa::{IntoParams, ToSchema};

use self::rows::Pages;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// The formats of a worklist.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WorklistFormat {
    Csv,
    Xlsx,
    /// One JSON object a line.
    Jsonl,
    /// A page to read and to print.
    Html,
}

/// Which format is asked for.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[param(inline)]
    format: WorklistFormat,
}

/// O(bytes of the pages of the release).
#[utoipa::path(operation_id = "releases_worklist", params(Query), responses((status = 200, content(
    (Vec<u8> = "text/csv"),
    (Vec<u8> = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
    (Vec<u8> = "application/jsonl"),
    (Vec<u8> = "text/html"),
)), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/sites/{site}/releases/{release}/worklist")]
pub async fn worklist(
    state: web::Data<State>,
    path: web::Path<(i32, i64)>,
    query: web::Query<Query>,
) -> Result<HttpResponse, ApiError> {
    let (id, release) = (SiteId(path.0), ReleaseId(path.1));
    let live = state.site(path.0).await?;
    let site = site::get(&state.pool, id).await?.ok_or(ApiError::NotFound("There is no such site."))?;
    release::get(&state.pool, id, release).await?.ok_or(ApiError::NotFound("There is no such release."))?;
    let links: Vec<_> = tray::of_releases(&state.pool, &[release]).await?.into_iter().map(|(_, taken)| taken).collect();
    let versions = release::all_versions(&state.pool, release).await?;
    let formats =
        strelm_store::page::formats(&state.pool, id, &versions.iter().map(|v| v.0).collect::<Vec<_>>()).await?;
    let pages = live.ask(move |model: &Model| Pages::of(model, links, &formats)).await?;
    let format = query.format;
    let name = site.settings.name;
    let written = web::block(move || -> anyhow::Result<Option<Vec<u8>>> {
        let rows = pages.rows(&versions);
        if rows.is_empty() {
            return Ok(None);
        }
        Ok(Some(match format {
            WorklistFormat::Csv => rows::table(&rows).to_csv()?,
            WorklistFormat::Xlsx => rows::table(&rows).to_xlsx("Links to put in")?,
            WorklistFormat::Jsonl => rows::table(&rows).to_json_lines()?,
            WorklistFormat::Html => printed::page(&name, release.0, &rows).into_bytes(),
        }))
    });
    let written = written.await.map_err(|error| ApiError::Internal(error.into()))?.map_err(ApiError::Internal)?;
    let bytes =
        written.ok_or_else(|| ApiError::Conflict("Nothing of this release is to be put in by hand.".to_owned()))?;
    let (kind, file) = match format {
        WorklistFormat::Csv => ("text/csv; charset=utf-8", "csv"),
        WorklistFormat::Xlsx => ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "xlsx"),
        WorklistFormat::Jsonl => ("application/jsonl; charset=utf-8", "jsonl"),
        WorklistFormat::Html => ("text/html; charset=utf-8", "html"),
    };
    let place = if format == WorklistFormat::Html { "inline" } else { "attachment" };
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header((CONTENT_DISPOSITION, format!("{place}; filename=\"links-to-put-in-{}.{file}\"", release.0)))
        .insert_header((CONTENT_SECURITY_POLICY, "default-src 'none'; style-src 'unsafe-inline'; sandbox allow-popups"))
        .insert_header((CACHE_CONTROL, "no-store"))
        .body(bytes))
}
