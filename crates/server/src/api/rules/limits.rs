//! What holds for all rules of a site together.

use actix_web::{HttpResponse, put, web};
use serde::{Deserialize, Serialize};
use strelm_core::rules::{RuleLimits, Share};
use strelm_store::{SiteId, rule};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};

/// What holds for all rules of a site together.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, ToSchema)]
pub struct RuleLimitsWish {
    /// Links of rules on a page: one for so many words, and one on a short page.
    pub words_per_link: usize,
    /// Links to one target, and on the same words, on a page.
    pub per_target: usize,
    pub per_anchor: usize,
    pub per_sentence: usize,
    /// Which share of all places is linked, 0 to 1.
    pub share: f64,
    /// Whether a page that passes does not lead its reader back to the page that he just came from. Caches have to keep it once
    /// for each page from which readers come.
    #[serde(default)]
    pub heeds_referrer: bool,
}

impl From<RuleLimits> for RuleLimitsWish {
    fn from(limits: RuleLimits) -> Self {
        Self {
            words_per_link: limits.words_per_link,
            per_target: limits.per_target,
            per_anchor: limits.per_anchor,
            per_sentence: limits.per_sentence,
            share: limits.share.part(),
            heeds_referrer: limits.heeds_referrer,
        }
    }
}

/// Sets it.
#[utoipa::path(operation_id = "rules_set_limits", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/sites/{site}/rules/limits")]
pub async fn set(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<RuleLimitsWish>,
) -> Result<HttpResponse, ApiError> {
    let counts = [wish.per_target, wish.per_anchor, wish.per_sentence];
    let share = Share::new(wish.share).filter(|_| counts.iter().all(|count| (1..=100).contains(count)));
    let share = share.filter(|_| (1..=10_000).contains(&wish.words_per_link)).ok_or_else(|| {
        ApiError::Unusable(
            "There is one link for 1 to 10,000 words, 1 to 100 for a target, the same words or a sentence, and a share \
             is from 0 to 1."
                .to_owned(),
        )
    })?;
    let limits = RuleLimits {
        words_per_link: wish.words_per_link,
        per_target: wish.per_target,
        per_anchor: wish.per_anchor,
        per_sentence: wish.per_sentence,
        share,
        heeds_referrer: wish.heeds_referrer,
    };
    let set = rule::set_limits(&state.pool, SiteId(*path), &limits).await?;
    set.ok_or(ApiError::NotFound("There is no such site."))?;
    Ok(HttpResponse::NoContent().finish())
}
