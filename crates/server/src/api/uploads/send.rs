//! Sending a file from which a site is to be made: an archive of pages, or a list of addresses.

use actix_web::{post, web};
use futures::StreamExt;
use serde::{Deserialize, Serialize};
use strelm_formats::list::{List, ListColumns};
use strelm_store::site::{self, Source};
use tokio::io::AsyncWriteExt;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::api::{ApiError, Problem, State};
use crate::uploads::{Held, UploadError};
use crate::words::capitalised;

/// Cells of each column that are shown, and letters of each.
const SHOWN: usize = 4;
const LONGEST_SHOWN: usize = 80;

#[derive(Debug, Deserialize, IntoParams, ToSchema)]
#[into_params(parameter_in = Query)]
pub struct Named {
    /// The name of the file.
    name: String,
}

/// A file that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct Upload {
    pub upload: Uuid,
    /// How many files an archive holds; nothing for a list.
    pub files: Option<usize>,
    /// What a list holds; nothing for an archive.
    pub list: Option<ListShown>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ListShown {
    pub rows: usize,
    pub columns: Vec<ColumnShown>,
    /// What the columns seem to be.
    pub proposed: Columns,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ColumnShown {
    pub heading: String,
    /// The first few cells.
    pub cells: Vec<String>,
}

/// Which column is what, counted from 0.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, ToSchema)]
pub struct Columns {
    pub address: Option<usize>,
    pub title: Option<usize>,
    pub phrases: Option<usize>,
}

impl From<ListColumns> for Columns {
    fn from(columns: ListColumns) -> Self {
        Self { address: columns.address, title: columns.title, phrases: columns.phrases }
    }
}

#[utoipa::path(operation_id = "uploads_send", params(Named), request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = Upload), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/uploads")]
pub async fn send(
    state: web::Data<State>,
    named: web::Query<Named>,
    mut body: web::Payload,
) -> Result<web::Json<Upload>, ApiError> {
    tidy(&state).await?;
    let internal = |error: std::io::Error| ApiError::Internal(error.into());
    let (id, part) = state.uploads.begin().map_err(internal)?;
    let received = receive(&mut body, &part, state.uploads.most_bytes).await;
    if let Err(error) = received {
        let _ = std::fs::remove_file(&part);
        return Err(error);
    }
    let (uploads, name) = (state.uploads.clone(), named.into_inner().name);
    let kept = web::block(move || uploads.keep(id, &name)).await.map_err(|error| ApiError::Internal(error.into()))?;
    match kept {
        Ok(Held::Archive(files)) => Ok(web::Json(Upload { upload: id, files: Some(files), list: None })),
        Ok(Held::List(list)) => Ok(web::Json(Upload { upload: id, files: None, list: Some(shown(&list)) })),
        Err(UploadError::Keep(error)) => Err(internal(error)),
        Err(error) => Err(ApiError::Unusable(format!("{}.", capitalised(&error.to_string())))),
    }
}

async fn receive(body: &mut web::Payload, part: &std::path::Path, most: u64) -> Result<(), ApiError> {
    let internal = |error: std::io::Error| ApiError::Internal(error.into());
    let mut file = tokio::fs::File::create(part).await.map_err(internal)?;
    let mut count = 0;
    while let Some(chunk) = body.next().await {
        let chunk =
            chunk.map_err(|_| ApiError::Unusable("The file did not arrive as a whole. Send it again.".to_owned()))?;
        count += chunk.len() as u64;
        if count > most {
            return Err(ApiError::Unusable(format!("The file is larger than {} MB.", most >> 20)));
        }
        file.write_all(&chunk).await.map_err(internal)?;
    }
    file.flush().await.map_err(internal)
}

/// Old files that no site came of are removed when a new one arrives.
async fn tidy(state: &State) -> Result<(), ApiError> {
    let sites = site::all(&state.pool).await?;
    let used = sites.into_iter().filter_map(|site| match site.settings.source {
        Source::Folder { path } => std::path::Path::new(&path).canonicalize().ok(),
        Source::Web { .. } => None,
    });
    let (used, uploads) = (used.collect::<Vec<_>>(), state.uploads.clone());
    web::block(move || uploads.tidy(&used)).await.map_err(|error| ApiError::Internal(error.into()))
}

fn shown(list: &List) -> ListShown {
    let cut = |cell: &str| cell.chars().take(LONGEST_SHOWN).collect();
    let column = |at: usize| ColumnShown {
        heading: match &list.headings {
            Some(headings) if !headings[at].is_empty() => cut(&headings[at]),
            _ => format!("Column {}", at + 1),
        },
        cells: (0..list.len().min(SHOWN)).map(|row| cut(list.cell(row, at))).collect(),
    };
    let columns = (0..list.width()).map(column).collect();
    ListShown { rows: list.len(), columns, proposed: list.columns().into() }
}
