//! Pages and the links on them, written in bulk.

mod gone;
mod kept;
mod put;
mod read;
mod versions;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, LinkAttributes, LinkMarks, Region};
use strelm_core::site::{Address, PageFacts, PageId, Validators};

use crate::journal::{self, Entry};
use crate::reading::ReadingId;
use crate::{Seq, SiteId, StoreError, page_id};

pub use gone::{mark_gone, mark_there};
pub use kept::{content_links, count, facts, formats, links, links_to, marks, roads, text, texts};
pub use put::put_all;
pub use read::{ReadBlock, ReadLink, ReadPage, Says, Source};

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
    /// What it says beside where it leads.
    pub attributes: LinkAttributes,
}

/// Where a link leads, with the page that it stands on.
#[derive(Debug, Clone)]
pub struct StoredRoad {
    pub page: PageId,
    pub to: Address,
    pub fragment: Option<String>,
    pub region: Region,
    pub marks: LinkMarks,
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
