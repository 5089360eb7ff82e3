//! Openings that the editor set aside: one place, a pair of pages, or all that lead to a page.

use sqlx::{PgConnection, PgPool};
use strelm_core::site::PageId;
use strelm_core::tray::{Passed, PassedPlace};

use crate::{SiteId, StoreError, number, page_id};

/// Sets openings aside, or brings them back, inside a transaction. `false` when they were that already.
pub(crate) async fn set(
    tx: &mut PgConnection,
    site: SiteId,
    passed: &Passed,
    is_passed: bool,
) -> Result<bool, StoreError> {
    let place = passed.place_key();
    let place = place.as_ref().map(|key| key.as_bytes());
    let changed = if is_passed {
        let sentence = passed.place.as_ref();
        sqlx::query!(
            "insert into passed_opening (site_id, source_number, target_number, anchor, before_anchor, after_anchor, place)
             values ($1, $2, $3, $4, $5, $6, $7) on conflict do nothing",
            site.0,
            passed.source.map(number),
            number(passed.target),
            passed.anchor,
            sentence.map_or("", |place| place.before.as_str()),
            sentence.map_or("", |place| place.after.as_str()),
            place,
        )
        .execute(&mut *tx)
        .await?
    } else {
        sqlx::query!(
            "delete from passed_opening where site_id = $1 and source_number is not distinct from $2
             and target_number = $3 and place is not distinct from $4",
            site.0,
            passed.source.map(number),
            number(passed.target),
            place,
        )
        .execute(&mut *tx)
        .await?
    };
    Ok(changed.rows_affected() > 0)
}

/// Passed openings, in an order: the rest of a query after `from passed_opening`.
macro_rules! passed {
    ($rest:tt, $($argument:expr),* $(,)?) => {
        sqlx::query_as!(
            PassedRow,
            "select id, source_number, target_number, anchor, before_anchor, after_anchor,
                    place is not null as has_place
             from passed_opening " + $rest,
            $($argument),*
        )
    };
}

struct PassedRow {
    id: i64,
    source_number: Option<i32>,
    target_number: i32,
    anchor: String,
    before_anchor: String,
    after_anchor: String,
    has_place: Option<bool>,
}

impl PassedRow {
    fn read(self) -> (i64, Passed) {
        let place = self.has_place.unwrap_or_default();
        let place = place.then_some(PassedPlace { before: self.before_anchor, after: self.after_anchor });
        let source = self.source_number.map(page_id);
        (self.id, Passed { source, target: page_id(self.target_number), anchor: self.anchor, place })
    }
}

/// What was passed for a page, as source or as target, with its number, the latest first.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn of_page(pool: &PgPool, site: SiteId, page: PageId) -> Result<Vec<(i64, Passed)>, StoreError> {
    let rows = passed!(
        "where site_id = $1 and (source_number = $2 or target_number = $2) order by id desc",
        site.0,
        number(page),
    );
    Ok(rows.fetch_all(pool).await?.into_iter().map(PassedRow::read).collect())
}

/// What was passed on the way to some pages, or to any; one query for all.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn to(pool: &PgPool, site: SiteId, targets: Option<&[PageId]>) -> Result<Vec<Passed>, StoreError> {
    let targets: Option<Vec<_>> = targets.map(|pages| pages.iter().map(|page| number(*page)).collect());
    let rows = passed!(
        "where site_id = $1 and ($2::int[] is null or target_number = any($2)) order by id",
        site.0,
        targets.as_deref(),
    );
    Ok(rows.fetch_all(pool).await?.into_iter().map(|row| row.read().1).collect())
}

/// The one with this number.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn by_id(pool: &PgPool, site: SiteId, id: i64) -> Result<Option<Passed>, StoreError> {
    let row = passed!("where site_id = $1 and id = $2", site.0, id,);
    Ok(row.fetch_optional(pool).await?.map(|row| row.read().1))
}
