//! What Pages shows as a file: a table for spreadsheets, rows for programs, a sitemap, or the graph of links.

use std::collections::HashSet;
use std::time::Duration;

use actix_web::{HttpResponse, get, web};
use serde::Deserialize;
use strelm_core::site::{InboundPage, Moment, PageId};
use strelm_formats::graph::{self, GraphEdge, GraphNode};
use strelm_formats::table::{Cell, Table};
use strelm_formats::{archive, sitemap};
use utoipa::{IntoParams, ToSchema};

use super::list::Filter;
use super::row::PageRow;
use crate::api::attachment::attachment;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// The formats in which pages are saved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FileFormat {
    Csv,
    Xlsx,
    /// One JSON object a line.
    Jsonl,
    /// A sitemap, or several in a ZIP where there are more addresses than one may hold.
    Sitemap,
    /// The pages and the links between them as GraphML.
    Graphml,
}

/// Which pages are saved, and how.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[param(inline)]
    format: FileFormat,
    /// Keys of columns in their order, with commas between them.
    columns: String,
}

/// How long a file waits for equity; that of the largest site takes a few seconds.
const PATIENCE: Duration = Duration::from_secs(20);

type Value = fn(&PageRow) -> Cell;

/// Keys, headings and values of the columns that there are.
const COLUMNS: [(&str, &str, Value); 17] = [
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
    ("openings_in", "Openings in", |row| Cell::Number(row.openings_in.into())),
    ("best_in", "Best fit in", |row| Cell::Number(row.best_in.unwrap_or_default().round())),
    ("openings_out", "Openings out", |row| Cell::Number(row.openings_out.into())),
    ("best_out", "Best fit out", |row| Cell::Number(row.best_out.unwrap_or_default().round())),
    ("equity", "Equity", |row| {
        row.equity.map_or(Cell::Text(String::new()), |equity| Cell::Number((equity * 100.0).round() / 100.0))
    }),
    ("attention", "Attention", |row| Cell::Number(row.attention.round())),
    ("depth", "Depth", |row| {
        row.depth.map_or(Cell::Text("unreachable".to_owned()), |depth| Cell::Number(depth.into()))
    }),
];

/// O(rows). The file holds all rows that pass the filters, not only those in view.
#[utoipa::path(operation_id = "pages_export", params(Filter, Query), responses((status = 200, content(
    (Vec<u8> = "text/csv"),
    (Vec<u8> = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
    (Vec<u8> = "application/jsonl"),
    (Vec<u8> = "application/xml"),
    (Vec<u8> = "application/zip"),
    (Vec<u8> = "application/graphml+xml"),
)), (status = 404, body = Problem), (status = 422, body = Problem)))]
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
    let mut columns: Vec<&'static (&str, &str, Value)> = Vec::new();
    for key in query.columns.split(',') {
        let column = named(key)?;
        // A column that is named again is the same column.
        if !columns.iter().any(|known| known.0 == column.0) {
            columns.push(column);
        }
    }
    if wish.tells_of_soundings() || columns.iter().any(|column| column.0 == "equity") {
        live.soundings(Moment::Now, PATIENCE).await?;
    }
    let format = query.format;
    let gather = move |model: &Model| {
        let ids = model.listed(&wish);
        match format {
            FileFormat::Csv | FileFormat::Xlsx | FileFormat::Jsonl => File::Table(table(model, &ids, &columns)),
            FileFormat::Sitemap => File::Sitemap(addresses(model, &ids)),
            FileFormat::Graphml => File::Graph(graph(model, &ids)),
        }
    };
    let file = live.ask(gather).await?;
    // A large workbook takes seconds to write.
    let written = web::block(move || file.write(format)).await;
    let bytes = written.map_err(|error| ApiError::Internal(error.into()))?.map_err(ApiError::Internal)?;
    let (kind, name) = match format {
        FileFormat::Csv => ("text/csv; charset=utf-8", "pages.csv"),
        FileFormat::Xlsx => ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "pages.xlsx"),
        FileFormat::Jsonl => ("application/jsonl; charset=utf-8", "pages.jsonl"),
        FileFormat::Sitemap if bytes.starts_with(b"PK") => ("application/zip", "sitemaps.zip"),
        FileFormat::Sitemap => ("application/xml; charset=utf-8", "sitemap.xml"),
        FileFormat::Graphml => ("application/graphml+xml; charset=utf-8", "links.graphml"),
    };
    Ok(attachment(kind, name, bytes))
}

enum File {
    Table(Table),
    Sitemap(Vec<String>),
    Graph((Vec<GraphNode>, Vec<GraphEdge>)),
}

impl File {
    fn write(self, format: FileFormat) -> anyhow::Result<Vec<u8>> {
        Ok(match self {
            Self::Table(table) if format == FileFormat::Xlsx => table.to_xlsx("Pages")?,
            Self::Table(table) if format == FileFormat::Jsonl => table.to_json_lines()?,
            Self::Table(table) => table.to_csv()?,
            Self::Sitemap(addresses) => {
                let mut files = sitemap::write(&addresses);
                match files.len() {
                    0 => sitemap::write(&[]).concat().into_bytes(),
                    1 => files.remove(0).into_bytes(),
                    _ => {
                        let named = (1..).zip(files).map(|(n, file)| (format!("sitemap-{n}.xml"), file.into_bytes()));
                        archive::pack(named)?
                    }
                }
            }
            Self::Graph((nodes, edges)) => {
                let mut out = Vec::new();
                graph::write(&mut out, nodes.into_iter(), edges.into_iter())?;
                out
            }
        })
    }
}

fn table(model: &Model, ids: &[PageId], columns: &[&(&str, &str, Value)]) -> Table {
    let row = |id: &PageId| {
        let row = PageRow::of(model, model.site.page(*id)?, model.site.figures(*id)?);
        Some(columns.iter().map(|(.., value)| value(&row)).collect())
    };
    Table {
        headings: columns.iter().map(|(_, heading, _)| (*heading).to_owned()).collect(),
        rows: ids.iter().filter_map(row).collect(),
    }
}

fn addresses(model: &Model, ids: &[PageId]) -> Vec<String> {
    ids.iter().filter_map(|id| model.site.page(*id)).map(|page| page.address.to_string()).collect()
}

/// The pages with the links among them. O(links to them).
fn graph(model: &Model, ids: &[PageId]) -> (Vec<GraphNode>, Vec<GraphEdge>) {
    let among: HashSet<_> = ids.iter().copied().collect();
    let node = |id: &PageId| {
        let page = model.site.page(*id)?;
        Some(GraphNode {
            id: id.0,
            address: page.address.to_string(),
            title: super::row::title(model, page),
            kind: page.kind.as_str().to_owned(),
            depth: model.site.figures(*id)?.depth,
        })
    };
    let edges = |to: &PageId| {
        let inbound = model.site.inbound(*to).into_iter().filter(|inbound| among.contains(&inbound.page));
        let edge = |from: InboundPage| GraphEdge {
            from: from.page.0,
            to: to.0,
            content: from.content,
            boilerplate: from.boilerplate,
        };
        inbound.map(edge).collect::<Vec<_>>()
    };
    (ids.iter().filter_map(node).collect(), ids.iter().flat_map(edges).collect())
}
