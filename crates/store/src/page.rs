//! Pages and the links on them, written in bulk.

use std::collections::HashMap;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Region};
use strelm_core::language::Language;
use strelm_core::site::{Address, PageFacts, PageId, PageKind};

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError, numbers, page_id};

/// A page as it was read.
#[derive(Debug, Clone)]
pub struct ReadPage {
    pub address: Address,
    pub kind: PageKind,
    pub title: String,
    pub heading: Option<String>,
    pub category: Option<String>,
    /// BCP 47.
    pub language: String,
    pub words: u32,
    pub crawled_hash: ContentHash,
    pub main_html: String,
    /// The content as the editing interface gives it.
    pub source: Option<(String, ContentHash)>,
    pub links: Vec<ReadLink>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReadLink {
    pub href: String,
    pub to: Address,
    pub fragment: Option<String>,
    pub anchor: String,
    pub region: Region,
    /// Whether the link says `rel=tag`: it leads to the archive of a term.
    pub is_tag: bool,
}

/// What is written of one page: what a reader sees, and what is edited.
#[derive(Debug, Clone)]
pub struct PageText {
    pub page: PageId,
    pub main_html: String,
    pub source: Option<(String, ContentHash)>,
}

/// A link with the page that it stands on.
#[derive(Debug, Clone)]
pub struct StoredLink {
    pub page: PageId,
    pub to: Address,
    pub anchor: String,
    pub region: Region,
}

/// Writes pages that were read: new ones get a number, changed ones are replaced with all their links, unchanged ones
/// are left alone. Three statements for any number of pages.
///
/// # Errors
/// [`StoreError::Database`]; nothing is written then.
pub async fn put_all(pool: &PgPool, site: SiteId, pages: &[ReadPage]) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let addresses: Vec<_> = pages.iter().map(|page| page.address.as_str().to_owned()).collect();
    // Holds the site's row, so that nobody else hands out numbers meanwhile.
    let next =
        sqlx::query_scalar!("select next_page from site where id = $1 for update", site.0).fetch_one(&mut *tx).await?;
    let known = sqlx::query!(
        "select number, address, crawled_hash, source_hash from page where site_id = $1 and address = any($2)",
        site.0,
        &addresses,
    )
    .fetch_all(&mut *tx)
    .await?;
    let known: HashMap<_, _> =
        known.into_iter().map(|row| (row.address, (row.number, row.crawled_hash, row.source_hash))).collect();
    let mut fresh = next;
    let mut changed = Vec::new();
    for page in pages {
        match known.get(page.address.as_str()) {
            Some((_, crawled, source))
                if crawled == page.crawled_hash.as_bytes()
                    && source.as_deref() == page.source.as_ref().map(|(_, hash)| hash.as_bytes()) => {}
            Some((number, ..)) => changed.push((*number, page)),
            None => {
                changed.push((fresh, page));
                fresh += 1;
            }
        }
    }
    if changed.is_empty() {
        return Ok(None);
    }
    sqlx::query!("update site set next_page = $2 where id = $1", site.0, fresh).execute(&mut *tx).await?;
    put_rows(&mut tx, site, &changed).await?;
    put_links(&mut tx, site, &changed).await?;
    let pages = changed.iter().map(|(number, _)| page_id(*number)).collect();
    let seq = journal::append(&mut *tx, site, &Entry::Pages(pages)).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

type Transaction = sqlx::Transaction<'static, sqlx::Postgres>;

async fn put_rows(tx: &mut Transaction, site: SiteId, pages: &[(i32, &ReadPage)]) -> Result<(), StoreError> {
    let column = |value: fn(&ReadPage) -> String| pages.iter().map(|(_, page)| value(page)).collect::<Vec<_>>();
    let optional = |value: fn(&ReadPage) -> Option<String>| pages.iter().map(|(_, p)| value(p)).collect::<Vec<_>>();
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    let words: Vec<_> = pages.iter().map(|(_, p)| i32::try_from(p.words).unwrap_or(i32::MAX)).collect();
    let crawled: Vec<_> = pages.iter().map(|(_, p)| p.crawled_hash.as_bytes().to_vec()).collect();
    let hashes: Vec<_> = pages.iter().map(|(_, p)| p.source.as_ref().map(|(_, h)| h.as_bytes().to_vec())).collect();
    sqlx::query!(
        "insert into page (site_id, number, address, kind, title, heading, category, language, words, crawled_hash,
                           main_html, source_html, source_hash)
         select $1, * from unnest($2::int[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[],
                                  $9::int[], $10::bytea[], $11::text[], $12::text[], $13::bytea[])
         on conflict (site_id, number) do update set
             kind = excluded.kind, title = excluded.title, heading = excluded.heading, category = excluded.category,
             language = excluded.language, words = excluded.words, crawled_hash = excluded.crawled_hash,
             main_html = excluded.main_html, source_html = excluded.source_html, source_hash = excluded.source_hash,
             read_at = now()",
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
        &optional(|page| page.source.as_ref().map(|(html, _)| html.clone())) as &[Option<String>],
        &hashes as &[Option<Vec<u8>>],
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

async fn put_links(tx: &mut Transaction, site: SiteId, pages: &[(i32, &ReadPage)]) -> Result<(), StoreError> {
    let numbers: Vec<_> = pages.iter().map(|(number, _)| *number).collect();
    sqlx::query!("delete from link where site_id = $1 and page_number = any($2)", site.0, &numbers)
        .execute(&mut **tx)
        .await?;
    let links =
        || pages.iter().flat_map(|(number, page)| (0i32..).zip(&page.links).map(|(o, link)| (*number, o, link)));
    let column = |value: fn(&ReadLink) -> String| links().map(|(.., link)| value(link)).collect::<Vec<_>>();
    let fragments: Vec<_> = links().map(|(.., link)| link.fragment.clone()).collect();
    sqlx::query!(
        "insert into link (site_id, page_number, ordinal, href, to_address, fragment, anchor, region, is_tag)
         select $1, * from unnest($2::int[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[],
                                  $9::bool[])",
        site.0,
        &links().map(|(number, ..)| number).collect::<Vec<_>>(),
        &links().map(|(_, ordinal, _)| ordinal).collect::<Vec<_>>(),
        &column(|link| link.href.clone()),
        &column(|link| link.to.as_str().to_owned()),
        &fragments as &[Option<String>],
        &column(|link| link.anchor.clone()),
        &column(|link| link.region.as_str().to_owned()),
        &links().map(|(.., link)| link.is_tag).collect::<Vec<_>>(),
    )
    .execute(&mut **tx)
    .await?;
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

struct FactsRow {
    number: i32,
    address: String,
    kind: String,
    title: String,
    heading: Option<String>,
    category: Option<String>,
    language: String,
    words: i32,
    editable: bool,
}

impl FactsRow {
    fn into_facts(self) -> Result<PageFacts, StoreError> {
        let unknown = |what| move |value: &str| StoreError::Unknown { what, value: value.to_owned() };
        Ok(PageFacts {
            id: page_id(self.number),
            address: Address::parse(&self.address).map_err(|_| unknown("an address")(&self.address))?,
            kind: PageKind::parse(&self.kind).ok_or_else(|| unknown("a kind of page")(&self.kind))?,
            title: self.title,
            heading: self.heading,
            category: self.category,
            words: u32::try_from(self.words).unwrap_or_default(),
            language: Language::from_tag(&self.language),
            editable: self.editable,
        })
    }
}

/// Facts of some pages, or of all when `pages` is `None`, in the order of their numbers.
///
/// # Errors
/// [`StoreError`].
pub async fn facts(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<Vec<PageFacts>, StoreError> {
    let pages = pages.map(numbers);
    let rows = sqlx::query_as!(
        FactsRow,
        "select number, address, kind, title, heading, category, language, words,
                source_html is not null as \"editable!\"
         from page where site_id = $1 and ($2::int[] is null or number = any($2)) order by number",
        site.0,
        pages.as_deref(),
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter().map(FactsRow::into_facts).collect()
}

/// Links of some pages, or of all when `pages` is `None`, in the order of pages and links.
///
/// # Errors
/// [`StoreError`].
pub async fn links(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<Vec<StoredLink>, StoreError> {
    let pages = pages.map(numbers);
    let rows = sqlx::query_as!(
        LinkRow,
        "select page_number, to_address, anchor, region from link
         where site_id = $1 and ($2::int[] is null or page_number = any($2)) order by page_number, ordinal",
        site.0,
        pages.as_deref(),
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter().map(LinkRow::into_link).collect()
}

/// Links to any of some addresses, in the order of pages and links, at most `most`.
///
/// # Errors
/// [`StoreError`].
pub async fn links_to(
    pool: &PgPool,
    site: SiteId,
    addresses: &[String],
    most: i64,
) -> Result<Vec<StoredLink>, StoreError> {
    let rows = sqlx::query_as!(
        LinkRow,
        "select page_number, to_address, anchor, region from link
         where site_id = $1 and to_address = any($2) order by region <> 'content', page_number, ordinal limit $3",
        site.0,
        addresses,
        most,
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter().map(LinkRow::into_link).collect()
}

struct LinkRow {
    page_number: i32,
    to_address: String,
    anchor: String,
    region: String,
}

impl LinkRow {
    fn into_link(self) -> Result<StoredLink, StoreError> {
        let unknown = |what, value: String| StoreError::Unknown { what, value };
        Ok(StoredLink {
            page: page_id(self.page_number),
            to: Address::parse(&self.to_address).map_err(|_| unknown("an address", self.to_address))?,
            anchor: self.anchor,
            region: Region::parse(&self.region).ok_or_else(|| unknown("a region", self.region))?,
        })
    }
}

/// The text of some pages, or of all when `pages` is `None`, in the order of their numbers.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn texts(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<Vec<PageText>, StoreError> {
    let pages = pages.map(numbers);
    let rows = sqlx::query!(
        "select number, main_html, source_html, source_hash from page
         where site_id = $1 and ($2::int[] is null or number = any($2)) order by number",
        site.0,
        pages.as_deref(),
    )
    .fetch_all(pool)
    .await?;
    let source = |html: Option<String>, hash: Option<Vec<u8>>| html.zip(ContentHash::from_bytes(&hash?));
    Ok(rows
        .into_iter()
        .map(|row| PageText {
            page: page_id(row.number),
            main_html: row.main_html,
            source: source(row.source_html, row.source_hash),
        })
        .collect())
}

/// The text of one page.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn text(pool: &PgPool, site: SiteId, page: PageId) -> Result<Option<PageText>, StoreError> {
    Ok(texts(pool, site, Some(&[page])).await?.pop())
}

/// How many pages a site has.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn count(pool: &PgPool, site: SiteId) -> Result<i64, StoreError> {
    let count = sqlx::query_scalar!("select count(*) as \"count!\" from page where site_id = $1", site.0);
    Ok(count.fetch_one(pool).await?)
}
