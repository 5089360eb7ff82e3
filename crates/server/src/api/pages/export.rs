//! What Pages shows as a file: CSV or XLSX.

use actix_web::http::header::{CACHE_CONTROL, CONTENT_DISPOSITION};
use actix_web::{HttpResponse, get, web};
use serde::Deserialize;
use strelm_formats::table::{Cell, Table};
use utoipa::{IntoParams, ToSchema};

use super::list::Filter;
use super::row::PageRow;
use crate::api::{ApiError, Problem, State};

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FileFormat {
    Csv,
    Xlsx,
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[param(inline)]
    format: FileFormat,
    /// Keys of columns in their order, with commas between them.
    columns: String,
}

type Value = fn(&PageRow) -> Cell;

/// Keys, headings and values of the columns that there are.
const COLUMNS: [(&str, &str, Value); 11] = [
    ("title", "Title", |row| Cell::Text(row.title.clone())),
    ("address", "Address", |row| Cell::Text(row.address.clone())),
    ("kind", "Kind", |row| Cell::Text(strelm_core::site::PageKind::from(row.kind).as_str().to_owned())),
    ("category", "Category", |row| Cell::Text(row.category.clone().unwrap_or_default())),
    ("words", "Words", |row| Cell::Number(row.words.into())),
    ("links_in", "Links in", |row| Cell::Number(row.links_in.into())),
    ("content_links_in", "Links in from content", |row| Cell::Number(row.content_links_in.into())),
    ("links_out", "Links out", |row| Cell::Number(row.links_out.into())),
    ("links_away", "Links away", |row| Cell::Number(row.links_away.into())),
    ("broken", "Broken links", |row| Cell::Number(row.broken.into())),
    ("depth", "Depth", |row| {
        row.depth.map_or(Cell::Text("unreachable".to_owned()), |depth| Cell::Number(depth.into()))
    }),
];

/// O(rows). The file holds all rows that pass the filters, not only those in view.
#[utoipa::path(operation_id = "pages_export", params(Filter, Query), responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/sites/{site}/pages/export")]
pub async fn export(
    state: web::Data<State>,
    path: web::Path<i32>,
    filter: web::Query<Filter>,
    query: web::Query<Query>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let wish = filter.into_inner().wish()?;
    let unknown = || ApiError::Unusable("One of the columns to export is not known.".to_owned());
    let named = |key: &str| COLUMNS.iter().find(|(known, ..)| *known == key).ok_or_else(unknown);
    let columns: Vec<_> = query.columns.split(',').map(named).collect::<Result<_, _>>()?;
    let table = {
        let model = live.read();
        let row = |id: &strelm_core::site::PageId| {
            let row = PageRow::of(&model, model.site.page(*id)?, model.site.figures(*id)?);
            Some(columns.iter().map(|(.., value)| value(&row)).collect())
        };
        Table {
            headings: columns.iter().map(|(_, heading, _)| (*heading).to_owned()).collect(),
            rows: model.listed(&wish).iter().filter_map(row).collect(),
        }
    };
    let format = query.format;
    // A large workbook takes seconds to write.
    let written = web::block(move || match format {
        FileFormat::Csv => table.to_csv(),
        FileFormat::Xlsx => table.to_xlsx("Pages"),
    });
    let bytes = written.await.map_err(|error| ApiError::Internal(error.into()))?;
    let bytes = bytes.map_err(|error| ApiError::Internal(error.into()))?;
    let (kind, ending) = match format {
        FileFormat::Csv => ("text/csv; charset=utf-8", "csv"),
        FileFormat::Xlsx => ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "xlsx"),
    };
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header((CONTENT_DISPOSITION, format!("attachment; filename=\"pages.{ending}\"")))
        .insert_header((CACHE_CONTROL, "no-store"))
        .body(bytes))
}
