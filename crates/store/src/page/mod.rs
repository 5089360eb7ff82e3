//! Pages and the links on them, written in bulk.

mod kept;
mod read;
mod versions;

use std::collections::{HashMap, HashSet};

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Format, Region};
use strelm_core::site::{Address, BlockKey, PageFacts, PageId};

use crate::furniture;
use crate::journal::{self, Entry};
use crate::reading::ReadingId;
use crate::{Seq, SiteId, StoreError, numbers, page_id};

pub use kept::{content_links, count, facts, formats, links, links_to, marks, roads, text, texts};
pub use read::{ReadBlock, ReadLink, ReadPage, Says, Source, Validators};
use versions::versions_json;

/// Why a page that was there is no longer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Gone {
    Vanished,
    /// Its address sends on to another.
    Moved,
    /// Its address is another one of a page that is there.
    Same,
}

impl Gone {
    const fn as_str(self) -> &'static str {
        match self {
            Self::Vanished => "vanished",
            Self::Moved => "moved",
            Self::Same => "same",
        }
    }

    fn parse(word: &str) -> Option<Self> {
        [Self::Vanished, Self::Moved, Self::Same].into_iter().find(|gone| gone.as_str() == word)
    }
}

impl Version {
    /// Whether the site has a page at this address, be it another address of one.
    pub fn is_there(&self) -> bool {
        matches!(self.gone, None | Some(Gone::Same))
    }
}

/// A page with what it is known to be, there or gone.
#[derive(Debug, Clone)]
pub struct KnownPage {
    pub facts: PageFacts,
    pub gone: Option<Gone>,
    /// The reading in which it was first seen, if that is known.
    pub first_reading: Option<ReadingId>,
}

/// What writing a page changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Put {
    New,
    Changed,
    Unchanged,
}

/// What a reading must know of a page to tell whether it changed.
#[derive(Debug, Clone)]
pub struct Version {
    pub address: Address,
    pub number: PageId,
    pub crawled_hash: ContentHash,
    pub validators: Validators,
    pub has_source: bool,
    pub canonical: Option<Address>,
    pub gone: Option<Gone>,
}

/// What is written of one page: what a reader sees, and what is edited.
#[derive(Debug, Clone)]
pub struct PageText {
    pub page: PageId,
    pub main_html: String,
    pub source: Option<Source>,
    pub ids: Vec<String>,
    pub says: Says,
}

/// What is to be known of a page's text without reading it.
#[derive(Debug, Clone)]
pub struct PageMarks {
    pub page: PageId,
    /// The version of its source; `None` where there is none.
    pub version: Option<ContentHash>,
    /// Places on it at which fragments can point.
    pub ids: Vec<String>,
}

/// A link with the page that it stands on.
#[derive(Debug, Clone)]
pub struct StoredLink {
    pub page: PageId,
    /// As it is written.
    pub href: String,
    pub to: Address,
    pub fragment: Option<String>,
    pub anchor: String,
    pub region: Region,
}

/// Where a link leads, with the page that it stands on.
#[derive(Debug, Clone)]
pub struct StoredRoad {
    pub page: PageId,
    pub to: Address,
    pub fragment: Option<String>,
    pub region: Region,
}

/// Writes pages that were read: new ones get a number, changed ones are replaced with all their links, unchanged ones
/// are left alone. A page that had gone is there again. Blocks that are known as `furniture` do not count as their own. A
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
    furniture: &HashSet<BlockKey>,
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
    put_rows(&mut tx, site, reading, &changed, furniture).await?;
    put_links(&mut tx, site, &changed, furniture).await?;
    furniture::put_blocks(&mut tx, site, &changed).await?;
    let pages = changed.iter().map(|(number, _)| page_id(*number)).collect();
    journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    tx.commit().await?;
    Ok(put)
}

/// Marks pages as gone. Their rows stay, and with them what was decided about them.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn mark_gone(pool: &PgPool, site: SiteId, pages: &[(PageId, Gone)]) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let marked = sqlx::query_scalar!(
        "update page set gone = marks.gone
         from unnest($2::int[], $3::text[]) as marks (number, gone)
         where site_id = $1 and page.number = marks.number and page.gone is distinct from marks.gone
         returning page.number",
        site.0,
        &pages.iter().map(|(page, _)| crate::number(*page)).collect::<Vec<_>>(),
        &pages.iter().map(|(_, gone)| gone.as_str().to_owned()).collect::<Vec<_>>(),
    )
    .fetch_all(&mut *tx)
    .await?;
    if marked.is_empty() {
        return Ok(None);
    }
    let pages = marked.into_iter().map(page_id).collect();
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Says that pages marked as gone are there after all.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn mark_there(pool: &PgPool, site: SiteId, pages: &[PageId]) -> Result<Option<Seq>, StoreError> {
    if pages.is_empty() {
        return Ok(None);
    }
    let mut tx = pool.begin().await?;
    sqlx::query!("update page set gone = null where site_id = $1 and number = any($2)", site.0, &numbers(pages))
        .execute(&mut *tx)
        .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages.to_vec())).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// What is known of the versions of all pages, gone ones too, in the order of their numbers.
///
/// # Errors
/// [`StoreError`].
pub async fn all_versions(pool: &PgPool, site: SiteId) -> Result<Vec<Version>, StoreError> {
    let rows = sqlx::query!(
        "select address, number, crawled_hash, etag, last_modified, source_text is not null as \"has_source!\",
                canonical, gone
         from page where site_id = $1 order by number",
        site.0,
    )
    .fetch_all(pool)
    .await?;
    let unknown = |what, value: &str| StoreError::Unknown { what, value: value.to_owned() };
    rows.into_iter()
        .map(|row| {
            Ok(Version {
                address: Address::parse(&row.address).map_err(|_| unknown("an address", &row.address))?,
                number: page_id(row.number),
                crawled_hash: ContentHash::from_bytes(&row.crawled_hash)
                    .ok_or_else(|| unknown("a hash", &row.address))?,
                validators: Validators { etag: row.etag, last_modified: row.last_modified },
                has_source: row.has_source,
                canonical: row.canonical.as_deref().and_then(|text| Address::parse(text).ok()),
                gone: row.gone.as_deref().and_then(Gone::parse),
            })
        })
        .collect()
}

/// Addresses to which links of the site lead and at which no page is known, each once.
///
/// # Errors
/// [`StoreError`].
pub async fn linked_elsewhere(pool: &PgPool, site: SiteId) -> Result<Vec<Address>, StoreError> {
    let rows = sqlx::query_scalar!(
        "select distinct to_address from link where site_id = $1
         and not exists (select from page where page.site_id = $1 and page.address = link.to_address)",
        site.0,
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.iter().filter_map(|text| Address::parse(text).ok()).collect())
}

type Transaction = sqlx::Transaction<'static, sqlx::Postgres>;

async fn put_rows(
    tx: &mut Transaction,
    site: SiteId,
    reading: Option<ReadingId>,
    pages: &[(i32, &ReadPage)],
    furniture: &HashSet<BlockKey>,
) -> Result<(), StoreError> {
    let column = |value: fn(&ReadPage) -> String| pages.iter().map(|(_, page)| value(page)).collect::<Vec<_>>();
    let optional = |value: fn(&ReadPage) -> Option<String>| pages.iter().map(|(_, p)| value(p)).collect::<Vec<_>>();
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    let words: Vec<_> = pages.iter().map(|(_, p)| i32::try_from(p.own_words(furniture)).unwrap_or(i32::MAX)).collect();
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
    furniture: &HashSet<BlockKey>,
) -> Result<(), StoreError> {
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    sqlx::query!("delete from link where site_id = $1 and page_number = any($2)", site.0, &numbers)
        .execute(&mut **tx)
        .await?;
    let links =
        || pages.iter().flat_map(|(number, page)| (0i32..).zip(&page.links).map(|(o, link)| (*number, o, link)));
    let column = |value: fn(&ReadLink) -> String| links().map(|(.., link)| value(link)).collect::<Vec<_>>();
    let fragments: Vec<_> = links().map(|(.., link)| link.fragment.clone()).collect();
    sqlx::query!(
        "insert into link (site_id, page_number, ordinal, href, to_address, fragment, anchor, region, is_tag, block_key)
         select $1, * from unnest($2::int[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[],
                                  $9::bool[], $10::bigint[])",
        site.0,
        &links().map(|(number, ..)| number).collect::<Vec<_>>(),
        &links().map(|(_, ordinal, _)| ordinal).collect::<Vec<_>>(),
        &column(|link| link.href.clone()),
        &column(|link| link.to.as_str().to_owned()),
        &fragments as &[Option<String>],
        &column(|link| link.anchor.clone()),
        &links().map(|(.., link)| link.region_among(furniture).as_str().to_owned()).collect::<Vec<_>>(),
        &links().map(|(.., link)| link.is_tag).collect::<Vec<_>>(),
        &links().map(|(.., link)| link.block.map(BlockKey::as_i64)).collect::<Vec<_>>() as &[Option<i64>],
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Lets PostgreSQL look at what was written. It does so by itself too late for the questions at the end of a reading,
/// and plans them for empty tables until then. O(1): it looks at a sample.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn take_stock(pool: &PgPool) -> Result<(), StoreError> {
    sqlx::query("analyze page, link, page_block").execute(pool).await?;
    Ok(())
}

/// Makes term archives of the pages to which others link with `rel=tag`.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn mark_term_archives(pool: &PgPool, site: SiteId) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let marked = sqlx::query_scalar!(
        "update page set kind = 'term archive'
         where site_id = $1 and kind <> 'term archive'
           and exists (select from link where link.site_id = $1 and link.to_address = page.address and link.is_tag)
         returning number",
        site.0,
    )
    .fetch_all(&mut *tx)
    .await?;
    if marked.is_empty() {
        return Ok(None);
    }
    let pages = marked.into_iter().map(page_id).collect();
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
