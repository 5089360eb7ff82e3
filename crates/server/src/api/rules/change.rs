//! Changing a rule.

use actix_web::{HttpResponse, put, web};
use strelm_core::rules::RuleId;
use strelm_store::{SiteId, rule};

use super::rule_wish::RuleWish;
use crate::api::{ApiError, Problem, State};

/// Puts another rule in the place of one.
#[utoipa::path(operation_id = "rules_change", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/sites/{site}/rules/{rule}")]
pub async fn change(
    state: web::Data<State>,
    path: web::Path<(i32, u32)>,
    wish: web::Json<RuleWish>,
) -> Result<HttpResponse, ApiError> {
    let (site, number) = path.into_inner();
    let live = state.site(site).await?;
    let wish = wish.into_inner();
    let kept = live.ask(move |model| wish.rule(RuleId(number), model)).await??;
    match rule::change(&state.pool, SiteId(site), &kept).await? {
        true => Ok(HttpResponse::NoContent().finish()),
        false => Err(ApiError::NotFound("There is no such rule any more: it was removed meanwhile.")),
    }
}
