//! Adding a site; its first reading begins at once.

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_store::SiteId;
use strelm_store::listed::{self, ListedPage};
use strelm_store::site::{self, Settings, SiteSource};
use url::Url;
use utoipa::ToSchema;

use super::look::{SourceWish, check_interface, checked_endpoint, sent_folder, sent_list, typed_address, typed_folder};
use super::typed::{PartWish, checked_name, checked_part};
use crate::api::{ApiError, Problem, State};

/// A site to be added.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewSite {
    name: String,
    source: SourceWish,
    /// The part of it that is read; all of it when nothing is said.
    part: Option<PartWish>,
}

/// The site that was added, or was there already.
#[derive(Debug, Serialize, ToSchema)]
pub struct AddedSite {
    pub site: i32,
}

/// Adds a site; one whose entry page is known stays as it is.
#[utoipa::path(operation_id = "sites_add", responses((status = 200, body = AddedSite), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/sites")]
pub async fn add(state: web::Data<State>, new: web::Json<NewSite>) -> Result<web::Json<AddedSite>, ApiError> {
    let name = checked_name(&new.name)?;
    let unusable = |problem: super::look::FieldProblem| ApiError::Unusable(problem.message);
    let mut listed = Vec::new();
    let (entry, source, token) = match &new.source {
        SourceWish::Web { address, micropub, token } => {
            let entry = typed_address(address).map_err(unusable)?;
            let micropub = micropub.as_deref().map(str::trim).filter(|text| !text.is_empty());
            let endpoint = micropub.map(checked_endpoint).transpose().map_err(unusable)?;
            if let Some(endpoint) = &endpoint {
                check_interface(&state, endpoint, token.as_deref()).await.map_err(unusable)?;
            }
            (entry, SiteSource::Web { micropub: micropub.map(str::to_owned) }, endpoint.zip(token.as_deref()))
        }
        SourceWish::Folder { path, address, writes } => {
            let (_, entry) = typed_folder(&state, path, address.as_deref()).map_err(unusable)?;
            (entry, SiteSource::Folder { path: path.trim().to_owned(), writes: writes.unwrap_or(true) }, None)
        }
        SourceWish::Archive { upload, address } => {
            let (path, _, entry) = sent_folder(&state, *upload, address.as_deref()).map_err(unusable)?;
            (entry, SiteSource::Folder { path: path.to_string_lossy().into_owned(), writes: true }, None)
        }
        SourceWish::List { upload, columns, address } => {
            let (entry, found) = sent_list(&state, *upload, *columns, address.as_deref()).map_err(unusable)?;
            listed = found.pages;
            (entry, SiteSource::Web { micropub: None }, None)
        }
    };
    let part = checked_part(&entry, &new.part.clone().unwrap_or_default())?;
    let settings = Settings { part, ..Settings::new(&name, source) };
    let (id, is_new) = site::add(&state.pool, &entry, &settings).await?;
    if !is_new {
        return Err(ApiError::Conflict(format!("A site with the entry page {entry} is there already.")));
    }
    if let Err(error) = complete(&state, id, &listed, token).await {
        // Half a site is none.
        site::delete(&state.pool, id).await?;
        state.secrets.remove_token(id).map_err(|error| ApiError::Internal(error.into()))?;
        return Err(error);
    }
    Ok(web::Json(AddedSite { site: id.0 }))
}

/// What belongs to a new site besides its row.
async fn complete(
    state: &State,
    id: SiteId,
    listed: &[ListedPage],
    token: Option<(Url, &str)>,
) -> Result<(), ApiError> {
    listed::put_all(&state.pool, id, listed).await?;
    if let Some((endpoint, token)) = token {
        state.secrets.set_token(id, &endpoint, token).map_err(|error| ApiError::Internal(error.into()))?;
    }
    strelm_work::order_reading(&state.pool, id).await?;
    Ok(())
}
