//! Deleting a site with everything that Strelm keeps of it. The live site is not touched.

use std::path::Path;

use actix_web::{HttpResponse, delete, web};
use serde::Deserialize;
use strelm_store::SiteId;
use strelm_store::site::{self, SiteSource};
use utoipa::{IntoParams, ToSchema};

use crate::api::{ApiError, Problem, State};
use strelm_work::uploads::Uploads;

/// The name of the site, typed by whoever deletes it.
#[derive(Debug, Deserialize, IntoParams, ToSchema)]
#[into_params(parameter_in = Query)]
pub struct Confirmation {
    /// The name of the site, typed by whoever wants it gone.
    name: String,
}

/// Deletes a site with all that is known of it.
#[utoipa::path(operation_id = "sites_delete", params(Confirmation), responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[delete("/sites/{site}")]
pub async fn delete(
    state: web::Data<State>,
    path: web::Path<i32>,
    confirmation: web::Query<Confirmation>,
) -> Result<HttpResponse, ApiError> {
    let id = SiteId(*path);
    let none = || ApiError::NotFound("There is no such site. It may have been deleted already.");
    let site = site::get(&state.pool, id).await?.ok_or_else(none)?;
    if confirmation.name.trim() != site.settings.name {
        return Err(ApiError::Unusable("The name does not match, so nothing was deleted.".to_owned()));
    }
    site::delete(&state.pool, id).await?;
    state.secrets.remove_token(id).map_err(|error| ApiError::Internal(error.into()))?;
    if let SiteSource::Folder { path, .. } = site.settings.source {
        // Of a site that was sent as an archive the only copy goes with it, unless another site is made of it, too.
        let (uploads, used) = (state.uploads.clone(), Uploads::in_use(&state.pool).await?);
        web::block(move || uploads.remove_of(Path::new(&path), &used)).await.map_err(anyhow::Error::from)?;
    }
    Ok(HttpResponse::NoContent().finish())
}
