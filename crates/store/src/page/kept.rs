//! Pages as they are kept: facts, links and texts.

use std::collections::HashMap;

use futures::TryStreamExt;
use sqlx::PgPool;
use sqlx::types::Json;
use strelm_core::document::{ContentHash, Format, LinkAttributes, Region};
use strelm_core::language::Language;
use strelm_core::site::{Address, PageFacts, PageId, PageKind, Standing, day_of};

use super::versions::versions_of;
use super::{Gone, KnownPage, PageMarks, PageText, Says, Source, StoredLink, StoredRoad};
use crate::reading::ReadingId;
use crate::{SiteId, StoreError, numbers, page_id};

/// Links that pass, in an order: the rest of a query after `from link`.
macro_rules! links {
    ($rest:tt, $($argument:expr),* $(,)?) => {
        sqlx::query_as!(
            LinkRow,
            "select page_number, href, to_address, fragment, anchor, region, says as \"says: Json<LinkAttributes>\"
             from link " + $rest,
            $($argument),*
        )
    };
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
    gone: Option<String>,
    first_reading: Option<i64>,
    noindex: bool,
    canonical: Option<String>,
    versions: serde_json::Value,
    published: Option<String>,
}

impl FactsRow {
    fn into_facts(self) -> Result<KnownPage, StoreError> {
        let unknown = |what| move |value: &str| StoreError::Unknown { what, value: value.to_owned() };
        let gone = self.gone.as_deref().and_then(Gone::parse);
        let facts = PageFacts {
            id: page_id(self.number),
            address: Address::parse(&self.address).map_err(|_| unknown("an address")(&self.address))?,
            kind: PageKind::parse(&self.kind).ok_or_else(|| unknown("a kind of page")(&self.kind))?,
            title: self.title,
            heading: self.heading,
            category: self.category,
            words: u32::try_from(self.words).unwrap_or_default(),
            language: Language::from_tag(&self.language),
            editable: self.editable,
            standing: Standing {
                noindex: self.noindex,
                canonical: self.canonical.as_deref().and_then(|text| Address::parse(text).ok()),
                versions: versions_of(self.versions),
                published: self.published.as_deref().and_then(day_of),
            },
        };
        Ok(KnownPage { facts, gone, first_reading: self.first_reading.map(ReadingId) })
    }
}

/// Facts of some pages, or of all when `pages` is `None`, in the order of their numbers.
///
/// # Errors
/// [`StoreError`].
pub async fn facts(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<Vec<KnownPage>, StoreError> {
    let pages = pages.map(numbers);
    let rows = sqlx::query_as!(
        FactsRow,
        "select number, address, kind, title, heading, category,
                -- Where a page does not tell its language it is that of the entry page.
                coalesce(nullif(language, 'und'),
                         (select entry.language from page entry join site on site.id = entry.site_id
                          where site.id = $1 and entry.address = site.entry), 'und') as \"language!\", words,
                source_text is not null as \"editable!\", gone, first_reading, noindex, canonical, versions, published
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
    let rows = links!(
        "where site_id = $1 and ($2::int[] is null or page_number = any($2)) order by page_number, ordinal",
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
    let rows = links!(
        "where site_id = $1 and to_address = any($2) order by region <> 'content', page_number, ordinal limit $3",
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
    href: String,
    to_address: String,
    fragment: Option<String>,
    anchor: String,
    region: String,
    says: Option<Json<LinkAttributes>>,
}

impl LinkRow {
    fn into_link(self) -> Result<StoredLink, StoreError> {
        let unknown = |what, value: String| StoreError::Unknown { what, value };
        Ok(StoredLink {
            page: page_id(self.page_number),
            href: self.href,
            to: Address::parse(&self.to_address).map_err(|_| unknown("an address", self.to_address))?,
            fragment: self.fragment,
            anchor: self.anchor,
            region: Region::parse(&self.region).ok_or_else(|| unknown("a region", self.region))?,
            attributes: self.says.map(|says| says.0).unwrap_or_default(),
        })
    }
}

/// The text of some pages, or of all when `pages` is `None`, in the order of their numbers. Gone pages have none.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn texts(pool: &PgPool, site: SiteId, pages: Option<&[PageId]>) -> Result<Vec<PageText>, StoreError> {
    let pages = pages.map(numbers);
    let rows = sqlx::query!(
        "select number, main_html, source_text, source_hash, source_format, ids, published, description, tags from page
         where site_id = $1 and gone is null and ($2::int[] is null or number = any($2)) order by number",
        site.0,
        pages.as_deref(),
    )
    .fetch_all(pool)
    .await?;
    let source = |text: Option<String>, hash: Option<Vec<u8>>, format: &str| {
        Some(Source { text: text?, hash: ContentHash::from_bytes(&hash?)?, format: Format::parse(format)? })
    };
    Ok(rows
        .into_iter()
        .map(|row| PageText {
            page: page_id(row.number),
            main_html: row.main_html,
            source: source(row.source_text, row.source_hash, &row.source_format),
            ids: row.ids,
            says: Says { published: row.published, description: row.description, tags: row.tags },
        })
        .collect())
}

/// What tells the text of some pages from others, and the places on them, in the order of their numbers: what is to be
/// known of a page's text without reading it. Gone pages have none.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn marks(pool: &PgPool, site: SiteId, pages: &[PageId]) -> Result<Vec<PageMarks>, StoreError> {
    let rows = sqlx::query!(
        "select number, source_hash, ids from page where site_id = $1 and gone is null and number = any($2) order by number",
        site.0,
        &numbers(pages),
    )
    .fetch_all(pool)
    .await?;
    let marks = rows.into_iter().map(|row| PageMarks {
        page: page_id(row.number),
        version: row.source_hash.as_deref().and_then(ContentHash::from_bytes),
        ids: row.ids,
    });
    Ok(marks.collect())
}

/// Where links of some pages lead, in the order of pages and links, without what they say. O(links), of which each address
/// is read once.
///
/// # Errors
/// [`StoreError`].
pub async fn roads(pool: &PgPool, site: SiteId, pages: &[PageId]) -> Result<Vec<StoredRoad>, StoreError> {
    let mut rows = sqlx::query!(
        "select page_number, to_address, fragment, region, says as \"says: Json<LinkAttributes>\" from link
         where site_id = $1 and page_number = any($2) order by page_number, ordinal",
        site.0,
        &numbers(pages),
    )
    .fetch(pool);
    let mut known: HashMap<String, Address> = HashMap::new();
    let mut roads = Vec::new();
    while let Some(row) = rows.try_next().await? {
        let to = match known.get(&row.to_address) {
            Some(to) => to.clone(),
            None => {
                let to = Address::parse(&row.to_address)
                    .map_err(|_| StoreError::Unknown { what: "an address", value: row.to_address.clone() })?;
                known.insert(row.to_address, to.clone());
                to
            }
        };
        let region = Region::parse(&row.region)
            .ok_or_else(|| StoreError::Unknown { what: "a region", value: row.region.clone() })?;
        let marks = row.says.map(|says| says.0.marks()).unwrap_or_default();
        roads.push(StoredRoad { page: page_id(row.page_number), to, fragment: row.fragment, region, marks });
    }
    Ok(roads)
}

/// Links in the content of some pages, in the order of pages and links.
///
/// # Errors
/// [`StoreError`].
pub async fn content_links(pool: &PgPool, site: SiteId, pages: &[PageId]) -> Result<Vec<StoredLink>, StoreError> {
    let rows = links!(
        "where site_id = $1 and page_number = any($2) and region = 'content' order by page_number, ordinal",
        site.0,
        &numbers(pages),
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter().map(LinkRow::into_link).collect()
}

/// The text of one page.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn text(pool: &PgPool, site: SiteId, page: PageId) -> Result<Option<PageText>, StoreError> {
    Ok(texts(pool, site, Some(&[page])).await?.pop())
}

/// How the sources of some pages are written.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn formats(pool: &PgPool, site: SiteId, pages: &[PageId]) -> Result<HashMap<PageId, Format>, StoreError> {
    let rows = sqlx::query!(
        "select number, source_format from page where site_id = $1 and number = any($2)",
        site.0,
        &numbers(pages),
    );
    let rows = rows.fetch_all(pool).await?.into_iter();
    Ok(rows.filter_map(|row| Some((page_id(row.number), Format::parse(&row.source_format)?))).collect())
}

/// How many pages a site has.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn count(pool: &PgPool, site: SiteId) -> Result<i64, StoreError> {
    let count = sqlx::query_scalar!("select count(*) as \"count!\" from page where site_id = $1", site.0);
    Ok(count.fetch_one(pool).await?)
}
