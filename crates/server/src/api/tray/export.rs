//! What the tray would change, as files: for whoever brings the changes to the site by hand.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, web};
use serde::Deserialize;
use strelm_core::document::{Document, Format};
use strelm_core::site::PageId;
use strelm_core::tray::{TrayEntry, apply_all};
use strelm_formats::{archive, diff};
use strelm_store::SiteId;
use strelm_store::page::{self, PageText};
use utoipa::{IntoParams, ToSchema};

use crate::api::attachment::attachment;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// How changes are saved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ChangesFormat {
    /// A unified diff of all pages.
    Diff,
    /// A ZIP of the pages as they will be.
    Zip,
}

/// Which format is asked for.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[param(inline)]
    format: ChangesFormat,
}

/// A page before and after, by its path.
struct Changed {
    path: String,
    before: String,
    after: String,
}

/// Changes that cannot be made any more are left out, as a release would hold them back. O(bytes of the pages).
#[utoipa::path(operation_id = "tray_export", params(Query), responses((status = 200, content((Vec<u8> = "text/x-diff"), (Vec<u8> = "application/zip"))), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/sites/{site}/tray/export")]
pub async fn export(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let gather = |model: &Model| {
        let mut by_page: BTreeMap<PageId, Vec<TrayEntry>> = BTreeMap::new();
        for taken in model.tray.waiting() {
            by_page.entry(taken.link.source).or_default().push(taken.clone());
        }
        let path = |id: &PageId| Some((*id, model.site.page(*id)?.address.as_url().path().to_owned()));
        let paths: BTreeMap<_, _> = by_page.keys().filter_map(path).collect();
        (by_page, paths)
    };
    let (by_page, paths) = live.ask(gather).await?;
    let pages: Vec<_> = by_page.keys().copied().collect();
    let texts = page::texts(&state.pool, SiteId(*path), Some(&pages)).await?;
    let format = query.format;
    let written = web::block(move || write(format, texts, &by_page, &paths)).await;
    let written = written.map_err(|error| ApiError::Internal(error.into()))?;
    let bytes = written.map_err(|error| ApiError::Internal(error.into()))?;
    let bytes =
        bytes.ok_or_else(|| ApiError::Conflict("There is nothing in the tray that could be saved.".to_owned()))?;
    let (kind, name) = match format {
        ChangesFormat::Diff => ("text/x-diff; charset=utf-8", "changes.diff"),
        ChangesFormat::Zip => ("application/zip", "changed-pages.zip"),
    };
    Ok(attachment(kind, name, bytes))
}

/// `None` when there is nothing to save.
fn write(
    format: ChangesFormat,
    texts: Vec<PageText>,
    by_page: &BTreeMap<PageId, Vec<TrayEntry>>,
    paths: &BTreeMap<PageId, String>,
) -> Result<Option<Vec<u8>>, archive::ArchiveError> {
    let changed: Vec<_> = texts
        .into_iter()
        .filter_map(|text| changed(text.source?, by_page.get(&text.page)?, paths.get(&text.page)?))
        .collect();
    if changed.is_empty() {
        return Ok(None);
    }
    Ok(Some(match format {
        ChangesFormat::Diff => {
            let diffs = changed.iter().map(|page| diff::unified(&page.path, &page.before, &page.after));
            diffs.collect::<String>().into_bytes()
        }
        ChangesFormat::Zip => archive::pack(changed.into_iter().map(|page| (page.path, page.after.into_bytes())))?,
    }))
}

fn changed(source: page::Source, entries: &[TrayEntry], path: &str) -> Option<Changed> {
    let document = Document::read(source.text.as_str(), source.format);
    let after = apply_all(&document, entries)?;
    Some(Changed { path: file_name(path, source.format), before: source.text, after })
}

/// The name of a page's file: an address that ends in `/` is that of an index file.
fn file_name(path: &str, format: Format) -> String {
    let ending = match format {
        Format::Html => "html",
        Format::Markdown => "md",
    };
    let path = path.trim_start_matches('/');
    let has_ending = path.rsplit('/').next().is_some_and(|name| name.contains('.'));
    match path {
        "" => format!("index.{ending}"),
        path if path.ends_with('/') => format!("{path}index.{ending}"),
        path if has_ending => path.to_owned(),
        path => format!("{path}.{ending}"),
    }
}
