//! The rules of a site with what becomes of their places.

use std::collections::BTreeSet;
use std::time::Duration;

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::rules::{RuleId, Scope};
use strelm_live::Model;
use strelm_live::rules::Tallied;
use strelm_store::SiteId;
use strelm_store::rule::{self, KeptRule, MadeLinks};
use utoipa::ToSchema;

use super::counts::PlaceCounts;
use super::leads::RuleLeads;
use super::limits::RuleLimitsWish;
use super::rule_wish::RuleWish;
use super::taxonomy::Taxonomy;
use crate::api::pages::PageRef;
use crate::api::{ApiError, Problem, State};

/// How long the list waits for its figures; it is shown without them, too.
const AT_ONCE: Duration = Duration::from_millis(300);

/// All rules of a site.
#[derive(Debug, Serialize, ToSchema)]
pub struct RuleList {
    /// The oldest first.
    pub rules: Vec<RuleRow>,
    /// Whether the counts are those of this moment; else they are on their way.
    pub is_counted: bool,
    pub limits: RuleLimitsWish,
    pub left_behind: LeftBehind,
    /// Categories of the site, to choose from.
    pub categories: Vec<String>,
    /// Kinds of terms that have archives, to choose from; those with the most terms first.
    pub taxonomies: Vec<Taxonomy>,
}

/// A rule.
#[derive(Debug, Serialize, ToSchema)]
pub struct RuleRow {
    pub number: u32,
    pub rule: RuleWish,
    pub leads: RuleLeads,
    /// The pages that it names: where alone it links, and where it does not.
    pub named_pages: Vec<PageRef>,
    /// Null while they are not known, and of a rule that is off.
    pub counts: Option<PlaceCounts>,
    /// Links on the site that it made, and those of them that lead elsewhere or say other things than it does now, or that
    /// are there though it is off.
    pub made: usize,
    pub outdated: usize,
}

/// Links of rules that were removed.
#[derive(Debug, Serialize, ToSchema)]
pub struct LeftBehind {
    /// The rules.
    pub rules: Vec<u32>,
    pub links: usize,
}

/// All rules; their places are counted in the background. O(rules + pages).
#[utoipa::path(operation_id = "rules_list", responses((status = 200, body = RuleList), (status = 404, body = Problem)))]
#[get("/sites/{site}/rules")]
pub async fn list(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<RuleList>, ApiError> {
    let live = state.site(*path).await?;
    let tallied = match live.ask(Model::texts_to_come).await? {
        // Pages are found by their words.
        Some(_) => Tallied { tally: None, is_fresh: false },
        None => live.rule_tally(&state.pool, AT_ONCE).await?,
    };
    let made = rule::made(&state.pool, SiteId(*path)).await?;
    Ok(web::Json(live.ask(move |model| listed(model, &tallied, &made)).await??))
}

fn listed(model: &Model, tallied: &Tallied, made: &[MadeLinks]) -> Result<RuleList, ApiError> {
    let counts = |kept: &KeptRule| {
        let tally = tallied.tally.as_ref().filter(|_| kept.is_on)?;
        Some(tally.0.get(&kept.rule.id).copied().unwrap_or_default().into())
    };
    let by_rule = |rule: RuleId| {
        let first = made.partition_point(|made| made.rule < rule);
        made[first..].iter().take_while(move |made| made.rule == rule)
    };
    let is_outdated =
        |kept: &KeptRule, made: &MadeLinks| !kept.is_on || !model.rules().makes(kept, &made.target, &made.says);
    let named = |scope: &Scope| {
        scope.only.iter().chain(&scope.never).filter_map(|page| PageRef::of(model, page.0).ok()).collect()
    };
    let row = |kept: &KeptRule| {
        let made = || by_rule(kept.rule.id);
        Ok::<_, ApiError>(RuleRow {
            made: made().map(|made| made.count).sum(),
            outdated: made().filter(|made| is_outdated(kept, made)).map(|made| made.count).sum(),
            number: kept.rule.id.0,
            rule: RuleWish::of(kept),
            leads: RuleLeads::of_rule(model, &kept.rule.target)?,
            named_pages: named(&kept.rule.scope),
            counts: counts(kept),
        })
    };
    let rules = model.rules();
    let categories: BTreeSet<&str> = model.site.pages().filter_map(|page| page.category.as_deref()).collect();
    let removed = || made.iter().filter(|made| rules.get(made.rule).is_none());
    let mut of_removed: Vec<_> = removed().map(|made| made.rule.0).collect();
    of_removed.dedup();
    Ok(RuleList {
        left_behind: LeftBehind { rules: of_removed, links: removed().map(|made| made.count).sum() },
        rules: rules.kept.iter().map(row).collect::<Result<_, _>>()?,
        is_counted: tallied.is_fresh,
        limits: rules.limits.into(),
        taxonomies: Taxonomy::all(model.rules().terms()),
        categories: categories.into_iter().map(str::to_owned).collect(),
    })
}
