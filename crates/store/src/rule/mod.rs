//! Auto-linking rules of a site.

mod exceptions;
mod limits;
mod made;
mod taken_after;

use serde::{Deserialize, Serialize};
use sqlx::types::Json;
use sqlx::{PgConnection, PgPool};
use strelm_core::document::LinkSays;
use strelm_core::rules::{Handling, Leads, Matching, OfTerms, Pace, Phrase, Rule, RuleId, Scope, Tracking};

pub use exceptions::{RuleException, exceptions, set_exceptions};
pub use limits::{limits, set_limits};
pub use made::{MadeLinks, made, made_links};
pub use taken_after::{at_once_after, note_taken_after, taken_after};

use crate::journal::{self, Entry};
use crate::target::WrittenTarget;
use crate::{SiteId, StoreError, rule_id, rule_number};

/// A rule as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptRule {
    pub rule: Rule<Leads>,
    /// Whether it makes links.
    pub is_on: bool,
    pub handling: Handling,
}

/// How a rule's places are found, and how its links are made.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(default)]
struct Options {
    matching: Matching,
    says: Vec<LinkSays>,
    tracking: Tracking,
    scope: Scope,
    pace: Pace,
    /// Of a rule that stands for all terms: for which.
    terms: Option<OfTerms>,
}

/// All rules of a site that were not removed, the oldest first.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId) -> Result<Vec<KeptRule>, StoreError> {
    let rows = sqlx::query!(
        "select number, phrases, expressions, target_kind, target_number, target_place, target_address, target_planned,
                priority, fit, options as \"options: Json<Options>\", is_on, handling
         from link_rule where site_id = $1 and removed_at is null order by number",
        site.0,
    );
    let rule = |phrases: &[String], are_expressions: bool| {
        let phrases = phrases.iter().map(|phrase| match are_expressions {
            true => Phrase::expression(phrase),
            false => Phrase::words(phrase),
        });
        phrases.collect::<Result<Vec<_>, _>>()
    };
    let unknown = |what, value: String| StoreError::Unknown { what, value };
    let mut rules = Vec::new();
    for row in rows.fetch_all(pool).await? {
        let phrases = rule(&row.phrases, row.expressions).map_err(|why| unknown("a phrase", why.to_string()))?;
        let Options { matching, says, tracking, scope, pace, terms } = row.options.0;
        let target = WrittenTarget {
            kind: row.target_kind,
            number: row.target_number,
            place: row.target_place,
            address: row.target_address,
            planned: row.target_planned,
        };
        let target = target.read().map(Leads::To).or(terms.map(Leads::Archives));
        let target = target.ok_or_else(|| unknown("a target of a rule", row.number.to_string()))?;
        rules.push(KeptRule {
            rule: Rule {
                id: rule_id(row.number),
                phrases,
                matching,
                target,
                says,
                tracking,
                scope,
                pace,
                priority: row.priority,
                fit: row.fit.into(),
            },
            is_on: row.is_on,
            handling: Handling::parse(&row.handling).ok_or_else(|| unknown("a handling", row.handling))?,
        });
    }
    Ok(rules)
}

/// Makes rules, whose own numbers do not count, and gives those that they get, in their order.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn make(pool: &PgPool, site: SiteId, rules: &[KeptRule]) -> Result<Vec<RuleId>, StoreError> {
    let mut tx = pool.begin().await?;
    // Two that make rules at once take their numbers one after the other.
    sqlx::query!("select id from site where id = $1 for update", site.0).fetch_optional(&mut *tx).await?;
    let last = sqlx::query_scalar!("select max(number) from link_rule where site_id = $1", site.0);
    let last = rule_id(last.fetch_one(&mut *tx).await?.unwrap_or_default());
    let mut made = Vec::with_capacity(rules.len());
    for (at, rule) in rules.iter().enumerate() {
        let id = RuleId(last.0 + 1 + u32::try_from(at).unwrap_or_default());
        put(&mut tx, site, id, rule).await?;
        made.push(id);
    }
    journal::append(&mut *tx, site, &Entry::Rules).await?;
    tx.commit().await?;
    Ok(made)
}

/// Puts another rule in the place of one; `false` when it is not there.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn change(pool: &PgPool, site: SiteId, rule: &KeptRule) -> Result<bool, StoreError> {
    let mut tx = pool.begin().await?;
    let is_there = sqlx::query_scalar!(
        "select true from link_rule where site_id = $1 and number = $2 and removed_at is null for update",
        site.0,
        rule_number(rule.rule.id),
    );
    if is_there.fetch_optional(&mut *tx).await?.is_none() {
        return Ok(false);
    }
    put(&mut tx, site, rule.rule.id, rule).await?;
    journal::append(&mut *tx, site, &Entry::Rules).await?;
    tx.commit().await?;
    Ok(true)
}

async fn put(tx: &mut PgConnection, site: SiteId, id: RuleId, kept: &KeptRule) -> Result<(), StoreError> {
    let rule = &kept.rule;
    let phrases: Vec<_> = rule.phrases.iter().map(|phrase| phrase.as_str().to_owned()).collect();
    let options = Options {
        matching: rule.matching.clone(),
        says: rule.says.clone(),
        tracking: rule.tracking.clone(),
        scope: rule.scope.clone(),
        pace: rule.pace,
        terms: match &rule.target {
            Leads::Archives(terms) => Some(terms.clone()),
            Leads::To(_) => None,
        },
    };
    let target = match &rule.target {
        Leads::To(target) => WrittenTarget::of(target),
        Leads::Archives(_) => WrittenTarget::default(),
    };
    sqlx::query!(
        "insert into link_rule (site_id, number, phrases, expressions, target_kind, target_number, target_place,
                                target_address, target_planned, priority, fit, options, is_on, handling, read_before)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14,
                 (select max(id) from reading where site_id = $1))
         on conflict (site_id, number) do update set
            phrases = excluded.phrases, expressions = excluded.expressions, target_kind = excluded.target_kind,
            target_number = excluded.target_number, target_place = excluded.target_place,
            target_address = excluded.target_address, target_planned = excluded.target_planned,
            priority = excluded.priority, fit = excluded.fit, options = excluded.options, is_on = excluded.is_on,
            handling = excluded.handling, read_before = excluded.read_before",
        site.0,
        rule_number(id),
        &phrases,
        rule.phrases.iter().any(|phrase| matches!(phrase, Phrase::Expression(_))),
        target.kind,
        target.number,
        target.place,
        target.address,
        target.planned,
        rule.priority,
        rule.fit as f32,
        Json(options) as _,
        kept.is_on,
        kept.handling.as_str(),
    )
    .execute(tx)
    .await?;
    Ok(())
}

/// Which rules are to be switched on or off, removed, or brought back.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Switch {
    On,
    Off,
    Removed,
    BroughtBack,
}

/// Switches rules; gives those that were something else before.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn switch(pool: &PgPool, site: SiteId, rules: &[RuleId], to: Switch) -> Result<Vec<RuleId>, StoreError> {
    let numbers: Vec<_> = rules.iter().map(|rule| rule_number(*rule)).collect();
    let mut tx = pool.begin().await?;
    let changed = match to {
        Switch::On | Switch::Off => {
            sqlx::query_scalar!(
                "update link_rule set is_on = $3, read_before = (select max(id) from reading where site_id = $1)
                 where site_id = $1 and number = any($2) and is_on <> $3 and removed_at is null returning number",
                site.0,
                &numbers,
                to == Switch::On,
            )
            .fetch_all(&mut *tx)
            .await?
        }
        Switch::Removed | Switch::BroughtBack => {
            sqlx::query_scalar!(
                "update link_rule set removed_at = case when $3 then now() end,
                                      read_before = (select max(id) from reading where site_id = $1)
                 where site_id = $1 and number = any($2) and (removed_at is not null) <> $3 returning number",
                site.0,
                &numbers,
                to == Switch::Removed,
            )
            .fetch_all(&mut *tx)
            .await?
        }
    };
    if !changed.is_empty() {
        journal::append(&mut *tx, site, &Entry::Rules).await?;
    }
    tx.commit().await?;
    Ok(changed.into_iter().map(rule_id).collect())
}

/// Rules that lead to planned pages which are there now lead to those pages, inside a transaction.
pub(crate) async fn arrive(tx: &mut PgConnection, site: SiteId, addresses: &[String]) -> Result<(), StoreError> {
    let moved = sqlx::query!(
        "update link_rule set target_kind = 'page', target_number = page.number, target_planned = null
         from planned_page, page
         where link_rule.site_id = $1 and link_rule.target_planned = planned_page.id
           and planned_page.address = any($2) and page.site_id = $1 and page.address = planned_page.address
           and page.gone is null",
        site.0,
        addresses,
    );
    if moved.execute(&mut *tx).await?.rows_affected() > 0 {
        journal::append(tx, site, &Entry::Rules).await?;
    }
    Ok(())
}
