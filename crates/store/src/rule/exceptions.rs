//! Places where links of rules were passed.

use sqlx::PgPool;
use strelm_core::rules::{RuleId, Spot};
use strelm_core::site::PageId;

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError, number, page_id, rule_id, rule_number};

/// A place where a link of a rule was passed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct RuleException {
    pub rule: RuleId,
    pub page: PageId,
    pub spot: Spot,
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
