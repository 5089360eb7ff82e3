//! Blocks that stand on most pages of a site: no content, whatever their markup says.

use std::collections::HashSet;

use sqlx::PgPool;
use strelm_core::site::{BlockKey, PageId, Repetition};

use crate::journal::{self, Entry};
use crate::page::ReadPage;
use crate::{Seq, SiteId, StoreError, number, page_id};

/// Writes the blocks of pages that were read, inside a transaction.
pub(crate) async fn put_blocks(
    tx: &mut sqlx::PgConnection,
    site: SiteId,
    pages: &[(i32, &ReadPage)],
) -> Result<(), StoreError> {
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    sqlx::query!("delete from page_block where site_id = $1 and page_number = any($2)", site.0, &numbers)
        .execute(&mut *tx)
        .await?;
    let blocks = || pages.iter().flat_map(|(number, page)| page.blocks.iter().map(|block| (*number, block)));
    let words: Vec<_> =
        blocks().map(|(_, block)| block.words.map(|words| i32::try_from(words).unwrap_or(i32::MAX))).collect();
    sqlx::query!(
        "insert into page_block (site_id, page_number, key, words)
         select $1, number, key, sum(words)::int from unnest($2::int[], $3::bigint[], $4::int[]) as read (number, key, words)
         group by number, key",
        site.0,
        &blocks().map(|(number, _)| number).collect::<Vec<_>>(),
        &blocks().map(|(_, block)| block.key.as_i64()).collect::<Vec<_>>(),
        &words as &[Option<i32>],
    )
    .execute(tx)
    .await?;
    Ok(())
}

/// The blocks that are boilerplate.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn all(pool: &PgPool, site: SiteId) -> Result<HashSet<BlockKey>, StoreError> {
    let keys = sqlx::query_scalar!("select key from boilerplate where site_id = $1", site.0).fetch_all(pool).await?;
    Ok(keys.into_iter().map(BlockKey::from_i64).collect())
}

/// Those of some blocks that are boilerplate.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn among(pool: &PgPool, site: SiteId, blocks: &HashSet<BlockKey>) -> Result<HashSet<BlockKey>, StoreError> {
    let keys: Vec<i64> = blocks.iter().map(|key| key.as_i64()).collect();
    let keys = sqlx::query_scalar!("select key from boilerplate where site_id = $1 and key = any($2)", site.0, &keys);
    Ok(keys.fetch_all(pool).await?.into_iter().map(BlockKey::from_i64).collect())
}

/// Those of them that a page has.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn on_page(pool: &PgPool, site: SiteId, page: PageId) -> Result<HashSet<BlockKey>, StoreError> {
    let keys = sqlx::query_scalar!(
        "select key from page_block join boilerplate using (site_id, key) where site_id = $1 and page_number = $2",
        site.0,
        number(page),
    )
    .fetch_all(pool)
    .await?;
    Ok(keys.into_iter().map(BlockKey::from_i64).collect())
}

/// Finds out anew what is boilerplate, and brings regions of links and counts of words up to date with it. Pages for which
/// something changed are told in the journal. O(blocks of the site), in the database.
///
/// # Errors
/// [`StoreError::Database`]; nothing is changed then.
pub async fn settle(pool: &PgPool, site: SiteId) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    // Each of these goes through whole tables. Where little is known of a young table, a plan that looks up row by row
    // would take minutes.
    sqlx::query("set local enable_nestloop = off").execute(&mut *tx).await?;
    sqlx::query("set local work_mem = '64MB'").execute(&mut *tx).await?;
    let changed = sqlx::query_scalar!(
        "with of_folder as (
             select number, substring(rtrim(split_part(split_part(address, '?', 1), '#', 1), '/') from '^(.*)/') as folder
             from page where site_id = $1 and gone is null),
         there as (
             select b.page_number, b.key, f.folder from page_block b join of_folder f on f.number = b.page_number
             where b.site_id = $1),
         total as (select count(distinct page_number) as pages from there),
         folder as (select folder, count(distinct page_number) as pages from there group by folder),
         found as (
             select key from there, total group by key, pages having count(*) * 10 > pages * $3 and pages >= $2
             union
             select key from there join folder using (folder) where pages >= $4
             group by folder, key, pages having count(*) * 10 > pages * $5),
         ended as (delete from boilerplate where site_id = $1 and key not in (select key from found) returning key),
         begun as (insert into boilerplate (site_id, key) select $1, key from found on conflict do nothing returning key)
         select distinct page_number as \"page!\" from page_block
         where site_id = $1 and key in (select key from ended union all select key from begun)",
        site.0,
        i64::from(Repetition::FEWEST_PAGES),
        i64::from(Repetition::IN_TEN),
        i64::from(Repetition::FEWEST_OF_FOLDER),
        i64::from(Repetition::IN_TEN_OF_FOLDER),
    )
    .fetch_all(&mut *tx)
    .await?;
    let moved = sqlx::query_scalar!(
        "update link set region = case when f.is_boilerplate then 'menu' else 'content' end
         from (select page_number, ordinal, f.key is not null as is_boilerplate
               from link left join boilerplate f on f.site_id = $1 and f.key = block_key
               where link.site_id = $1 and block_key is not null) as f
         where link.site_id = $1 and link.page_number = f.page_number and link.ordinal = f.ordinal
           and link.region <> case when f.is_boilerplate then 'menu' else 'content' end
         returning link.page_number",
        site.0,
    )
    .fetch_all(&mut *tx)
    .await?;
    let counted = sqlx::query_scalar!(
        "update page set words = own.words
         from (select page_number, coalesce(sum(b.words) filter (where f.key is null), 0)::int as words
               from page_block b left join boilerplate f on f.site_id = $1 and f.key = b.key
               where b.site_id = $1 group by page_number having count(b.words) > 0) as own
         where page.site_id = $1 and page.number = own.page_number and page.words <> own.words
         returning page.number",
        site.0,
    )
    .fetch_all(&mut *tx)
    .await?;
    let mut pages: Vec<_> = changed.into_iter().chain(moved).chain(counted).collect();
    pages.sort_unstable();
    pages.dedup();
    if pages.is_empty() {
        tx.commit().await?;
        return Ok(None);
    }
    let pages = pages.into_iter().map(page_id).collect();
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
