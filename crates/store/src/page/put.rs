//! Writing pages that were read, in bulk.

use std::collections::{HashMap, HashSet};

use sqlx::PgPool;
use strelm_core::document::Format;
use strelm_core::site::{Address, BlockKey, PageId};

use super::versions::versions_json;
use super::{Gone, Put, ReadLink, ReadPage};
use crate::journal::{self, Entry};
use crate::reading::ReadingId;
use crate::{SiteId, StoreError, boilerplate, page_id, planned_page};

/// Writes pages that were read: new ones get a number, changed ones are replaced with all their links, unchanged ones
/// are left alone. A page that had gone is there again. Blocks that are known as `boilerplate` do not count as their own. A
/// handful of statements for any number of pages; gives for each page its number and what changed, in order. Of pages with
/// the same address the first counts.
///
/// # Errors
/// [`StoreError::Database`]; nothing is written then.
pub async fn put_all(
    pool: &PgPool,
    site: SiteId,
    reading: Option<ReadingId>,
    pages: &[ReadPage],
    boilerplate: &HashSet<BlockKey>,
) -> Result<Vec<(PageId, Put)>, StoreError> {
    let mut tx = pool.begin().await?;
    let addresses: Vec<_> = pages.iter().map(|page| page.address.as_str().to_owned()).collect();
    // Holds the site's row, so that nobody else hands out numbers meanwhile.
    let next =
        sqlx::query_scalar!("select next_page from site where id = $1 for update", site.0).fetch_one(&mut *tx).await?;
    let known = sqlx::query!(
        "select number, address, crawled_hash, source_hash, gone from page where site_id = $1 and address = any($2)",
        site.0,
        &addresses,
    )
    .fetch_all(&mut *tx)
    .await?;
    let known: HashMap<_, _> = known.into_iter().map(|row| (row.address.clone(), row)).collect();
    let mut fresh = next;
    let (mut changed, mut put) = (Vec::new(), Vec::with_capacity(pages.len()));
    let mut met: HashMap<&Address, PageId> = HashMap::new();
    for page in pages {
        if let Some(number) = met.get(&page.address) {
            put.push((*number, Put::Unchanged));
            continue;
        }
        match known.get(page.address.as_str()) {
            Some(row)
                if row.crawled_hash == page.crawled_hash.as_bytes()
                    && row.source_hash.as_deref() == page.source.as_ref().map(|source| source.hash.as_bytes())
                    && row.gone.as_deref().is_none_or(|gone| gone == Gone::Same.as_str()) =>
            {
                put.push((page_id(row.number), Put::Unchanged));
            }
            Some(row) => {
                changed.push((row.number, page));
                put.push((page_id(row.number), if row.gone.is_some() { Put::New } else { Put::Changed }));
            }
            None => {
                changed.push((fresh, page));
                put.push((page_id(fresh), Put::New));
                fresh += 1;
            }
        }
        met.extend(put.last().map(|(number, _)| (&page.address, *number)));
    }
    if changed.is_empty() {
        return Ok(put);
    }
    sqlx::query!("update site set next_page = $2 where id = $1", site.0, fresh).execute(&mut *tx).await?;
    put_rows(&mut tx, site, reading, &changed, boilerplate).await?;
    put_links(&mut tx, site, &changed, boilerplate).await?;
    boilerplate::put_blocks(&mut tx, site, &changed).await?;
    let arrived = planned_page::arrive(&mut tx, site, &addresses).await?;
    let pages = changed.iter().map(|(number, _)| page_id(*number)).collect();
    journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    if !arrived.is_empty() {
        journal::append(&mut *tx, site, &Entry::Taken(arrived)).await?;
    }
    tx.commit().await?;
    Ok(put)
}

type Transaction = sqlx::Transaction<'static, sqlx::Postgres>;

async fn put_rows(
    tx: &mut Transaction,
    site: SiteId,
    reading: Option<ReadingId>,
    pages: &[(i32, &ReadPage)],
    boilerplate: &HashSet<BlockKey>,
) -> Result<(), StoreError> {
    let column = |value: fn(&ReadPage) -> String| pages.iter().map(|(_, page)| value(page)).collect::<Vec<_>>();
    let optional = |value: fn(&ReadPage) -> Option<String>| pages.iter().map(|(_, p)| value(p)).collect::<Vec<_>>();
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    let words: Vec<_> =
        pages.iter().map(|(_, p)| i32::try_from(p.own_words(boilerplate)).unwrap_or(i32::MAX)).collect();
    let crawled: Vec<_> = pages.iter().map(|(_, p)| p.crawled_hash.as_bytes().to_vec()).collect();
    let ids: Vec<_> = pages.iter().map(|(_, p)| serde_json::json!(p.ids)).collect();
    let says: Vec<_> = pages.iter().map(|(_, p)| serde_json::json!(p.says)).collect();
    let noindex: Vec<_> = pages.iter().map(|(_, p)| p.standing.noindex).collect();
    let versions: Vec<_> = pages.iter().map(|(_, p)| versions_json(&p.standing.versions)).collect();
    let hashes: Vec<_> = pages.iter().map(|(_, p)| p.source.as_ref().map(|s| s.hash.as_bytes().to_vec())).collect();
    sqlx::query!(
        "insert into page (site_id, number, address, kind, title, heading, category, language, words, crawled_hash,
                           main_html, source_text, source_hash, source_format, etag, last_modified, ids,
                           published, description, tags, first_reading, noindex, canonical, versions)
         select $1, number, address, kind, title, heading, category, language, words, crawled_hash, main_html,
                source_text, source_hash, source_format, etag, last_modified,
                array(select jsonb_array_elements_text(ids)), says ->> 'published', says ->> 'description',
                array(select jsonb_array_elements_text(says -> 'tags')), $19, noindex, canonical, versions
         from unnest($2::int[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::int[],
                     $10::bytea[], $11::text[], $12::text[], $13::bytea[], $14::text[], $15::text[], $16::text[],
                     $17::jsonb[], $18::jsonb[], $20::bool[], $21::text[], $22::jsonb[])
             as read (number, address, kind, title, heading, category, language, words, crawled_hash, main_html,
                      source_text, source_hash, source_format, etag, last_modified, ids, says, noindex, canonical, versions)
         on conflict (site_id, number) do update set
             kind = excluded.kind, title = excluded.title, heading = excluded.heading, category = excluded.category,
             language = excluded.language, words = excluded.words, crawled_hash = excluded.crawled_hash,
             main_html = excluded.main_html, source_text = excluded.source_text, source_hash = excluded.source_hash,
             source_format = excluded.source_format, etag = excluded.etag, last_modified = excluded.last_modified,
             ids = excluded.ids, published = excluded.published, description = excluded.description,
             tags = excluded.tags, noindex = excluded.noindex, canonical = excluded.canonical,
             versions = excluded.versions,
             first_reading = case when page.gone is null then page.first_reading else excluded.first_reading end,
             gone = null, read_at = now()",
        site.0,
        &numbers,
        &column(|page| page.address.as_str().to_owned()),
        &column(|page| page.kind.as_str().to_owned()),
        &column(|page| page.title.clone()),
        &optional(|page| page.heading.clone()) as &[Option<String>],
        &optional(|page| page.category.clone()) as &[Option<String>],
        &column(|page| page.language.clone()),
        &words,
        &crawled,
        &column(|page| page.main_html.clone()),
        &optional(|page| page.source.as_ref().map(|source| source.text.clone())) as &[Option<String>],
        &hashes as &[Option<Vec<u8>>],
        &column(|page| page.source.as_ref().map_or(Format::Html, |source| source.format).as_str().to_owned()),
        &optional(|page| page.validators.etag.clone()) as &[Option<String>],
        &optional(|page| page.validators.last_modified.clone()) as &[Option<String>],
        &ids,
        &says,
        reading.map(|reading| reading.0),
        &noindex,
        &optional(|page| page.standing.canonical.as_ref().map(ToString::to_string)) as &[Option<String>],
        &versions,
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

async fn put_links(
    tx: &mut Transaction,
    site: SiteId,
    pages: &[(i32, &ReadPage)],
    boilerplate: &HashSet<BlockKey>,
) -> Result<(), StoreError> {
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    sqlx::query!("delete from link where site_id = $1 and page_number = any($2)", site.0, &numbers)
        .execute(&mut **tx)
        .await?;
    let links =
        || pages.iter().flat_map(|(number, page)| (0i32..).zip(&page.links).map(|(o, link)| (*number, o, link)));
    let column = |value: fn(&ReadLink) -> String| links().map(|(.., link)| value(link)).collect::<Vec<_>>();
    let fragments: Vec<_> = links().map(|(.., link)| link.fragment.clone()).collect();
    let says = |link: &ReadLink| (!link.attributes.is_empty()).then(|| serde_json::json!(link.attributes));
    let says: Vec<_> = links().map(|(.., link)| says(link)).collect();
    sqlx::query!(
        "insert into link (site_id, page_number, ordinal, href, to_address, fragment, anchor, region, is_tag, block_key,
                           says)
         select $1, * from unnest($2::int[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[],
                                  $9::bool[], $10::bigint[], $11::jsonb[])",
        site.0,
        &links().map(|(number, ..)| number).collect::<Vec<_>>(),
        &links().map(|(_, ordinal, _)| ordinal).collect::<Vec<_>>(),
        &column(|link| link.href.clone()),
        &column(|link| link.to.as_str().to_owned()),
        &fragments as &[Option<String>],
        &column(|link| link.anchor.clone()),
        &links().map(|(.., link)| link.region_among(boilerplate).as_str().to_owned()).collect::<Vec<_>>(),
        &links().map(|(.., link)| link.is_tag).collect::<Vec<_>>(),
        &links().map(|(.., link)| link.block.map(BlockKey::as_i64)).collect::<Vec<_>>() as &[Option<i64>],
        &says as &[Option<serde_json::Value>],
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
