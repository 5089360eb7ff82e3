//! The sites that there are.

use actix_web::{get, web};
use serde::Serialize;
use strelm_store::site;
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};

/// A site with its name.
#[derive(Debug, Serialize, ToSchema)]
pub struct SiteName {
    pub id: i32,
    pub name: String,
    /// Address of the entry page.
    pub entry: String,
}

/// All sites by name.
#[utoipa::path(operation_id = "sites_list", responses((status = 200, body = [SiteName]), (status = 500, body = Problem)))]
#[get("/sites")]
pub async fn list(state: web::Data<State>) -> Result<web::Json<Vec<SiteName>>, ApiError> {
    let sites = site::all(&state.pool).await?;
    let name = |site: site::Site| SiteName { id: site.id.0, name: site.settings.name, entry: site.entry.to_string() };
    Ok(web::Json(sites.into_iter().map(name).collect()))
}
