//! Auto-linking rules of a site, places where their links were passed, and what holds for all of them together.

use serde::{Deserialize, Serialize};
use sqlx::types::Json;
use sqlx::{PgConnection, PgPool};
use strelm_core::document::LinkSays;
use strelm_core::rules::{
    Handling, Leads, Matching, OfTerms, Pace, Phrase, Rule, RuleId, RuleLimits, Scope, Spot, Tracking,
};
use strelm_core::site::{ChangeId, PageId, Target};
use strelm_core::tray::TrayEntry;

use crate::journal::{self, Entry};
use crate::reading::ReadingId;
use crate::target::WrittenTarget;
use crate::{Seq, SiteId, StoreError, number, page_id, rule_number, tray};

/// A rule as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptRule {
    pub rule: Rule<Leads>,
    /// Whether it makes links.
    pub is_on: bool,
    pub handling: Handling,
}

/// A place where a link of a rule was passed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct RuleException {
    pub rule: RuleId,
    pub page: PageId,
    pub spot: Spot,
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

fn rule_id(number: i32) -> RuleId {
    RuleId(u32::try_from(number).unwrap_or_default())
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
                                target_address, target_planned, priority, fit, options, is_on, handling)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)
         on conflict (site_id, number) do update set
            phrases = excluded.phrases, expressions = excluded.expressions, target_kind = excluded.target_kind,
            target_number = excluded.target_number, target_place = excluded.target_place,
            target_address = excluded.target_address, target_planned = excluded.target_planned,
            priority = excluded.priority, fit = excluded.fit, options = excluded.options, is_on = excluded.is_on,
            handling = excluded.handling",
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
                "update link_rule set is_on = $3
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
                "update link_rule set removed_at = case when $3 then now() end
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

/// Links on the site that a rule made, which lead to one target and say the same.
#[derive(Debug, Clone, PartialEq)]
pub struct MadeLinks {
    pub rule: RuleId,
    pub target: Target,
    pub says: Vec<LinkSays>,
    pub count: usize,
}

/// How many links on the site rules made, as far as they were not taken off or changed since. One row for each rule and
/// target, in the order of the rules.
///
/// # Errors
/// [`StoreError`].
pub async fn made(pool: &PgPool, site: SiteId) -> Result<Vec<MadeLinks>, StoreError> {
    let rows = sqlx::query!(
        "select rule_number as \"rule!\", target_kind, target_number, target_place, target_address, target_planned,
                says as \"says: Json<Vec<LinkSays>>\", count(*) as \"count!\"
         from rule_link where site_id = $1
         group by rule_number, target_kind, target_number, target_place, target_address, target_planned, says
         order by rule_number",
        site.0,
    );
    let rows = rows.fetch_all(pool).await?.into_iter().map(|row| {
        let target = WrittenTarget {
            kind: row.target_kind,
            number: row.target_number,
            place: row.target_place,
            address: row.target_address,
            planned: row.target_planned,
        };
        let unknown = || StoreError::Unknown { what: "a target of a link", value: row.rule.to_string() };
        Ok(MadeLinks {
            rule: rule_id(row.rule),
            target: target.read().ok_or_else(unknown)?,
            says: row.says.map(|says| says.0).unwrap_or_default(),
            count: usize::try_from(row.count).unwrap_or_default(),
        })
    });
    rows.collect()
}

/// Those links one by one, of some rules or of all, on one page or on all.
///
/// # Errors
/// [`StoreError`].
pub async fn made_links(
    pool: &PgPool,
    site: SiteId,
    rules: Option<&[RuleId]>,
    page: Option<PageId>,
) -> Result<Vec<TrayEntry>, StoreError> {
    let numbers: Option<Vec<_>> = rules.map(|rules| rules.iter().map(|rule| rule_number(*rule)).collect());
    let ids = sqlx::query_scalar!(
        "select id as \"id!\" from rule_link
         where site_id = $1 and ($2::int[] is null or rule_number = any($2)) and ($3::int is null or source_number = $3)",
        site.0,
        numbers.as_deref(),
        page.map(number),
    );
    let ids: Vec<_> = ids.fetch_all(pool).await?.into_iter().map(ChangeId).collect();
    match ids.is_empty() {
        true => Ok(Vec::new()),
        false => tray::by_id(pool, site, &ids).await,
    }
}

/// Places where links of rules were passed.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn exceptions(pool: &PgPool, site: SiteId) -> Result<Vec<RuleException>, StoreError> {
    let rows = sqlx::query!("select rule_number, page_number, spot from rule_exception where site_id = $1", site.0);
    let exception = |row: (i32, i32, i64)| RuleException {
        rule: rule_id(row.0),
        page: page_id(row.1),
        spot: Spot(row.2.cast_unsigned()),
    };
    let rows = rows.fetch_all(pool).await?.into_iter();
    Ok(rows.map(|row| exception((row.rule_number, row.page_number, row.spot))).collect())
}

/// Passes places of rules, or brings them back.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set_exceptions(
    pool: &PgPool,
    site: SiteId,
    exceptions: &[RuleException],
    are_passed: bool,
) -> Result<Seq, StoreError> {
    let rules: Vec<_> = exceptions.iter().map(|exception| rule_number(exception.rule)).collect();
    let pages: Vec<_> = exceptions.iter().map(|exception| number(exception.page)).collect();
    let spots: Vec<_> = exceptions.iter().map(|exception| exception.spot.0.cast_signed()).collect();
    let mut tx = pool.begin().await?;
    if are_passed {
        sqlx::query!(
            "insert into rule_exception (site_id, rule_number, page_number, spot)
             select $1, passed.rule, passed.page, passed.spot
             from unnest($2::int[], $3::int[], $4::bigint[]) as passed (rule, page, spot)
             join link_rule on link_rule.site_id = $1 and link_rule.number = passed.rule on conflict do nothing",
            site.0,
            &rules,
            &pages,
            &spots,
        )
        .execute(&mut *tx)
        .await?;
    } else {
        sqlx::query!(
            "delete from rule_exception using unnest($2::int[], $3::int[], $4::bigint[]) as passed (rule, page, spot)
             where site_id = $1 and rule_number = passed.rule and page_number = passed.page
                   and rule_exception.spot = passed.spot",
            site.0,
            &rules,
            &pages,
            &spots,
        )
        .execute(&mut *tx)
        .await?;
    }
    let seq = journal::append(&mut *tx, site, &Entry::Rules).await?;
    tx.commit().await?;
    Ok(seq)
}

/// What holds for all rules of a site; what is so at first where nobody set anything.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn limits(pool: &PgPool, site: SiteId) -> Result<RuleLimits, StoreError> {
    let limits =
        sqlx::query_scalar!("select rule_limits as \"limits: Json<RuleLimits>\" from site where id = $1", site.0);
    Ok(limits.fetch_optional(pool).await?.flatten().map_or_else(RuleLimits::default, |limits| limits.0))
}

/// Sets it; `None` when there is no such site.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set_limits(pool: &PgPool, site: SiteId, limits: &RuleLimits) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let set = sqlx::query!("update site set rule_limits = $2 where id = $1", site.0, Json(limits) as _);
    if set.execute(&mut *tx).await?.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Rules).await?;
    tx.commit().await?;
    Ok(Some(seq))
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

/// The latest reading after which rules took what they link at once.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn taken_after(pool: &PgPool, site: SiteId) -> Result<Option<ReadingId>, StoreError> {
    let after = sqlx::query_scalar!("select rules_after from site where id = $1", site.0).fetch_optional(pool).await?;
    Ok(after.flatten().map(ReadingId))
}

/// Notes that they did after this one.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_taken_after(pool: &PgPool, site: SiteId, reading: ReadingId) -> Result<(), StoreError> {
    sqlx::query!("update site set rules_after = $2 where id = $1", site.0, reading.0).execute(pool).await?;
    Ok(())
}
