//! Why an opening fits, part by part, in plain words.

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::document::TextSpan;
use strelm_core::openings::Part;
use strelm_core::site::PageId;
use utoipa::{IntoParams, ToSchema};

use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// Which opening is asked about.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    source: u32,
    target: u32,
    /// The words, as byte offsets into the text of the source page.
    start: usize,
    end: usize,
}

/// What one part of a fit says.
#[derive(Debug, Serialize, ToSchema)]
pub struct PartReasons {
    pub part: String,
    pub reasons: Vec<String>,
}

/// O(words of both pages).
#[utoipa::path(operation_id = "openings_reasons", params(Query), responses((status = 200, body = [PartReasons]), (status = 404, body = Problem)))]
#[get("/sites/{site}/openings/reasons")]
pub async fn reasons(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<Vec<PartReasons>>, ApiError> {
    let live = state.site(*path).await?;
    let query = query.into_inner();
    Ok(web::Json(live.ask(move |model| reasons_of(model, &query)).await??))
}

fn reasons_of(model: &Model, query: &Query) -> Result<Vec<PartReasons>, ApiError> {
    page_of(model, query.source)?;
    page_of(model, query.target)?;
    let words = TextSpan::new(query.start, query.end.max(query.start));
    let found = model.judge().reasons(PageId(query.source), PageId(query.target), words);
    let found = found.ok_or(ApiError::NotFound("These words do not name the page any more. Look at it once more."))?;
    let row = |(part, told): (Part, Vec<strelm_core::openings::Reason>)| PartReasons {
        part: part.as_str().to_owned(),
        reasons: told.iter().map(ToString::to_string).collect(),
    };
    Ok(Part::ALL.into_iter().zip(found).map(row).collect())
}
