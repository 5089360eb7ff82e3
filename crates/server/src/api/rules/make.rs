//! Making rules, one or many.

use actix_web::{post, web};
use serde::Serialize;
use strelm_store::{SiteId, rule};
use utoipa::ToSchema;

use super::rule_wish::RuleWish;
use super::{MOST_AT_ONCE, NOT_KEPT};
use crate::api::{ApiError, Problem, State};

/// The numbers of rules, in the order of the wishes.
#[derive(Debug, Serialize, ToSchema)]
pub struct RulesMade {
    pub numbers: Vec<u32>,
}

/// Makes all of them, or none where one cannot be made.
#[utoipa::path(operation_id = "rules_make", responses((status = 200, body = RulesMade), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/sites/{site}/rules")]
pub async fn make(
    state: web::Data<State>,
    path: web::Path<i32>,
    wishes: web::Json<Vec<RuleWish>>,
) -> Result<web::Json<RulesMade>, ApiError> {
    if wishes.is_empty() || wishes.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("Make 1 to {MOST_AT_ONCE} rules at once.")));
    }
    let live = state.site(*path).await?;
    let wishes = wishes.into_inner();
    let rules = live
        .ask(move |model| wishes.iter().map(|wish| wish.rule(NOT_KEPT, model)).collect::<Result<Vec<_>, _>>())
        .await??;
    let made = rule::make(&state.pool, SiteId(*path), &rules).await?;
    Ok(web::Json(RulesMade { numbers: made.into_iter().map(|id| id.0).collect() }))
}
