//! Switching rules on and off, removing them and bringing them back.

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::rules::RuleId;
use strelm_store::rule::Switch;
use strelm_store::{SiteId, rule};
use utoipa::ToSchema;

use super::MOST_AT_ONCE;
use crate::api::{ApiError, Problem, State};

/// What is to become of some rules.
#[derive(Debug, Deserialize, ToSchema)]
pub struct SwitchWish {
    rules: Vec<u32>,
    to: SwitchTo,
}

/// What becomes of a rule.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SwitchTo {
    On,
    Off,
    Removed,
    BroughtBack,
}

/// The rules that were something else before.
#[derive(Debug, Serialize, ToSchema)]
pub struct Switched {
    rules: Vec<u32>,
}

/// Links that the rules have made stay where they are.
#[utoipa::path(operation_id = "rules_switch", responses((status = 200, body = Switched), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/sites/{site}/rules/switch")]
pub async fn switch(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<SwitchWish>,
) -> Result<web::Json<Switched>, ApiError> {
    state.known(*path).await?;
    if wish.rules.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("Switch at most {MOST_AT_ONCE} rules at once.")));
    }
    let rules: Vec<_> = wish.rules.iter().map(|number| RuleId(*number)).collect();
    let to = match wish.to {
        SwitchTo::On => Switch::On,
        SwitchTo::Off => Switch::Off,
        SwitchTo::Removed => Switch::Removed,
        SwitchTo::BroughtBack => Switch::BroughtBack,
    };
    let switched = rule::switch(&state.pool, SiteId(*path), &rules, to).await?;
    Ok(web::Json(Switched { rules: switched.into_iter().map(|rule| rule.0).collect() }))
}
