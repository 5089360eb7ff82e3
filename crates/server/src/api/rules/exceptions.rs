//! Passing places of rules: exceptions, which stay while their sentence does.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;
use strelm_core::rules::{RuleId, Spot};
use strelm_core::site::PageId;
use strelm_store::rule::RuleException;
use strelm_store::{SiteId, rule};
use utoipa::ToSchema;

use super::MOST_AT_ONCE;
use crate::api::{ApiError, Problem, State};

/// Places that are to be passed, or brought back.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ExceptionsWish {
    places: Vec<ExceptionWish>,
    are_passed: bool,
}

/// A place of a rule.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ExceptionWish {
    rule: u32,
    page: u32,
    /// As the place has it.
    spot: String,
}

/// The rules link there no more, or again.
#[utoipa::path(operation_id = "rules_pass", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/sites/{site}/rules/exceptions")]
pub async fn pass(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<ExceptionsWish>,
) -> Result<HttpResponse, ApiError> {
    state.known(*path).await?;
    if wish.places.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("Pass at most {MOST_AT_ONCE} places at once.")));
    }
    let exception = |place: &ExceptionWish| {
        let spot = u64::from_str_radix(&place.spot, 16).ok()?;
        Some(RuleException { rule: RuleId(place.rule), page: PageId(place.page), spot: Spot(spot) })
    };
    let exceptions: Option<Vec<_>> = wish.places.iter().map(exception).collect();
    let exceptions = exceptions.ok_or_else(|| ApiError::Unusable("This is no place of a rule.".to_owned()))?;
    rule::set_exceptions(&state.pool, SiteId(*path), &exceptions, wish.are_passed).await?;
    Ok(HttpResponse::NoContent().finish())
}
