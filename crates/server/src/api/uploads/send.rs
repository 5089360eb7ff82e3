//! Sending a file from which a site is to be made: an archive of pages, or a list of addresses.

use actix_web::{post, web};
use futures::StreamExt;
use serde::{Deserialize, Serialize};
use strelm_formats::list::{List, ListColumns};
use tokio::io::AsyncWriteExt;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::api::{ApiError, Problem, State};
use strelm_work::uploads::{Held, UploadError};
use strelm_work::words::sentence;

/// Cells of each column that are shown, and letters of each.
const SHOWN: usize = 4;
const LONGEST_SHOWN: usize = 80;

/// The name of the file that is sent.
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

/// A list as it was read, for a look at its columns.
#[derive(Debug, Serialize, ToSchema)]
pub struct ListShown {
    pub rows: usize,
    pub columns: Vec<ColumnShown>,
    /// What the columns seem to be.
    pub proposed: Columns,
}

/// A column of a list, and what it is taken for.
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

/// Takes a file that an editor sends, piece by piece as it comes. O(bytes).
#[utoipa::path(operation_id = "uploads_send", params(Named), request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = Upload), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/uploads")]
pub async fn send(
    state: web::Data<State>,
    named: web::Query<Named>,
    mut body: web::Payload,
) -> Result<web::Json<Upload>, ApiError> {
    let uploads = state.uploads.clone();
    let arriving = web::block(move || uploads.begin()).await.map_err(anyhow::Error::from)?.map_err(refusal)?;
    let received = receive(&mut body, &arriving.part, state.uploads.most_bytes.min(arriving.room)).await;
    if let Err(error) = received {
        let _ = tokio::fs::remove_file(&arriving.part).await;
        return Err(error);
    }
    let id = arriving.id;
    let (uploads, name) = (state.uploads.clone(), named.into_inner().name);
    let kept = web::block(move || uploads.keep(&arriving, &name)).await.map_err(anyhow::Error::from)?;
    match kept {
        Ok(Held::Archive(files)) => Ok(web::Json(Upload { upload: id, files: Some(files), list: None })),
        Ok(Held::List(list)) => Ok(web::Json(Upload { upload: id, files: None, list: Some(shown(&list)) })),
        Err(error) => Err(refusal(error)),
    }
}

fn refusal(error: UploadError) -> ApiError {
    match error {
        UploadError::Keep(error) => ApiError::Internal(error.into()),
        error => ApiError::Unusable(sentence(&error.to_string())),
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
