//! Links that rules made.

use sqlx::PgPool;
use sqlx::types::Json;
use strelm_core::document::LinkSays;
use strelm_core::rules::RuleId;
use strelm_core::site::{ChangeId, PageId, Target};
use strelm_core::tray::TrayEntry;

use crate::target::WrittenTarget;
use crate::{SiteId, StoreError, number, rule_id, rule_number, tray};

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
