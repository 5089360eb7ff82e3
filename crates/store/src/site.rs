//! Sites, and what an editor sets for them.

use sqlx::PgPool;
use strelm_core::site::{Address, IGNORED_PARAMETERS, LinkForm, RoadsCount, SitePart};

use crate::journal::{self, Entry};
use crate::{Seq, StoreError};

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct SiteId(pub i32);

/// Where a site is read from, and where its releases go.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SiteSource {
    /// The live site, edited over Micropub where it has that.
    Web { micropub: Option<String> },
    /// A folder of files on the machine of the server, and whether they may be changed.
    Folder { path: String, writes: bool },
}

/// How what is in the tray gets to a site.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// Strelm writes it there.
    Written,
    /// Somebody gets a list of it and brings it there.
    HandedOver,
}

impl Way {
    pub(crate) const fn as_str(self) -> &'static str {
        match self {
            Self::Written => "written",
            Self::HandedOver => "handed over",
        }
    }

    pub(crate) fn parse(word: &str) -> Option<Self> {
        [Self::Written, Self::HandedOver].into_iter().find(|way| way.as_str() == word)
    }
}

/// How often a site is read again by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Every {
    Day,
    Week,
    Month,
}

impl Every {
    const fn as_str(self) -> &'static str {
        match self {
            Self::Day => "day",
            Self::Week => "week",
            Self::Month => "month",
        }
    }

    fn parse(word: &str) -> Option<Self> {
        [Self::Day, Self::Week, Self::Month].into_iter().find(|every| every.as_str() == word)
    }
}

/// What an editor sets.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Settings {
    pub name: String,
    pub source: SiteSource,
    /// Further pages on which readers start.
    pub entries: Vec<Address>,
    pub roads: RoadsCount,
    /// Addresses that a reading looks at, at most.
    pub most_pages: i32,
    /// Between the beginnings of two requests, in milliseconds.
    pub delay_ms: i32,
    /// Parameters of addresses that change nothing on the page; a name that ends in `*` stands for all that begin so.
    pub ignored_parameters: Vec<String>,
    pub read_every: Option<Every>,
    /// Which part of it is read.
    pub part: SitePart,
}

impl Settings {
    pub fn new(name: &str, source: SiteSource) -> Self {
        let name = name.to_owned();
        Self {
            name,
            source,
            entries: Vec::new(),
            roads: RoadsCount::All,
            most_pages: 20_000,
            delay_ms: 0,
            ignored_parameters: IGNORED_PARAMETERS.map(str::to_owned).into(),
            read_every: None,
            part: SitePart::default(),
        }
    }
}

#[derive(Debug, Clone)]
pub struct Site {
    pub id: SiteId,
    pub entry: Address,
    pub settings: Settings,
    /// How the links of a folder are written, once it was read.
    pub link_form: Option<LinkForm>,
    /// The editing interface that its entry page names.
    pub named_micropub: Option<String>,
}

impl Site {
    /// How new links between its pages are written; `None` where addresses from the root are.
    pub fn form_of_links(&self) -> Option<LinkForm> {
        match self.settings.source {
            SiteSource::Folder { .. } => Some(self.link_form.clone().unwrap_or_default()),
            SiteSource::Web { .. } => None,
        }
    }

    pub fn way(&self) -> Way {
        match self.settings.source {
            SiteSource::Web { micropub: Some(_) } | SiteSource::Folder { writes: true, .. } => Way::Written,
            SiteSource::Web { micropub: None } | SiteSource::Folder { writes: false, .. } => Way::HandedOver,
        }
    }
}

fn roads_word(roads: RoadsCount) -> &'static str {
    match roads {
        RoadsCount::All => "all",
        RoadsCount::Content => "content",
    }
}

/// Columns of the source: its kind, the editing interface, the folder, and whether its files may be changed.
fn source_columns(source: &SiteSource) -> (&'static str, Option<&str>, Option<&str>, bool) {
    match source {
        SiteSource::Web { micropub } => ("web", micropub.as_deref(), None, true),
        SiteSource::Folder { path, writes } => ("folder", None, Some(path), *writes),
    }
}

/// Adds a site, or gives the one that has this entry page, as it is. The second value tells whether it is new.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn add(pool: &PgPool, entry: &Address, settings: &Settings) -> Result<(SiteId, bool), StoreError> {
    let (source, micropub, folder, writes) = source_columns(&settings.source);
    let entries: Vec<_> = settings.entries.iter().map(|entry| entry.as_str().to_owned()).collect();
    let row = sqlx::query!(
        "insert into site (name, entry, micropub, source, folder, roads, entries, most_pages, delay_ms,
                           ignored_parameters, read_every, writes, within, without)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)
         on conflict (entry) do update set entry = excluded.entry
         returning id, xmax = 0 as \"is_new!\"",
        settings.name,
        entry.as_str(),
        micropub,
        source,
        folder,
        roads_word(settings.roads),
        &entries,
        settings.most_pages,
        settings.delay_ms,
        &settings.ignored_parameters,
        settings.read_every.map(Every::as_str),
        writes,
        &settings.part.within,
        &settings.part.without,
    )
    .fetch_one(pool)
    .await?;
    Ok((SiteId(row.id), row.is_new))
}

/// Changes what an editor set; `None` when there is no such site. Where it is read from stays.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set(pool: &PgPool, site: SiteId, settings: &Settings) -> Result<Option<Seq>, StoreError> {
    let (_, micropub, _, writes) = source_columns(&settings.source);
    let entries: Vec<_> = settings.entries.iter().map(|entry| entry.as_str().to_owned()).collect();
    let mut tx = pool.begin().await?;
    // With another editing interface pages have other sources: the next reading takes every page for a changed one.
    sqlx::query!(
        "update page set etag = null, last_modified = null, crawled_hash = decode(repeat('00', 32), 'hex')
         where site_id = $1
         and exists (select from site where id = $1 and micropub is distinct from $2)",
        site.0,
        micropub,
    )
    .execute(&mut *tx)
    .await?;
    // With other ignored parameters links lead elsewhere: the next reading takes every page for a changed one.
    sqlx::query!(
        "update page set etag = null, last_modified = null, crawled_hash = decode(repeat('00', 32), 'hex')
         where site_id = $1 and exists (select from site where id = $1 and ignored_parameters <> $2)",
        site.0,
        &settings.ignored_parameters,
    )
    .execute(&mut *tx)
    .await?;
    let changed = sqlx::query!(
        "update site set name = $2, micropub = $3, roads = $4, entries = $5, most_pages = $6, delay_ms = $7,
                         ignored_parameters = $8, read_every = $9, writes = $10, within = $11, without = $12
         where id = $1",
        site.0,
        settings.name,
        micropub,
        roads_word(settings.roads),
        &entries,
        settings.most_pages,
        settings.delay_ms,
        &settings.ignored_parameters,
        settings.read_every.map(Every::as_str),
        writes,
        &settings.part.within,
        &settings.part.without,
    )
    .execute(&mut *tx)
    .await?;
    if changed.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Site).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Notes the editing interface that the entry page names.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_interface(pool: &PgPool, site: SiteId, named: &Address) -> Result<(), StoreError> {
    sqlx::query!("update site set named_micropub = $2 where id = $1", site.0, named.as_str()).execute(pool).await?;
    Ok(())
}

/// Adds an entry page; `None` when there is no such site, or it is one already.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn add_entry(pool: &PgPool, site: SiteId, entry: &Address) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    let added = sqlx::query!(
        "update site set entries = entries || $2 where id = $1 and entry <> $2 and not $2 = any(entries)",
        site.0,
        entry.as_str(),
    );
    if added.execute(&mut *tx).await?.rows_affected() == 0 {
        return Ok(None);
    }
    let seq = journal::append(&mut *tx, site, &Entry::Site).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Notes how the links of a folder are written.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set_link_form(pool: &PgPool, site: SiteId, form: Option<&LinkForm>) -> Result<(), StoreError> {
    let form = form.map(|form| serde_json::json!(form));
    sqlx::query!("update site set link_form = $2 where id = $1", site.0, form).execute(pool).await?;
    Ok(())
}

/// Deletes a site with everything that is kept of it.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn delete(pool: &PgPool, site: SiteId) -> Result<bool, StoreError> {
    // In this order each table's rows go before those that they refer to, so that every delete is a plain one.
    let mut tx = pool.begin().await?;
    sqlx::query!("delete from decision where site_id = $1", site.0).execute(&mut *tx).await?;
    sqlx::query!("delete from taken_link where site_id = $1", site.0).execute(&mut *tx).await?;
    sqlx::query!("delete from release where site_id = $1", site.0).execute(&mut *tx).await?;
    sqlx::query!("delete from link where site_id = $1", site.0).execute(&mut *tx).await?;
    let deleted = sqlx::query!("delete from site where id = $1", site.0).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(deleted.rows_affected() > 0)
}

struct SiteRow {
    id: i32,
    name: String,
    entry: String,
    micropub: Option<String>,
    folder: Option<String>,
    roads: String,
    entries: Vec<String>,
    most_pages: i32,
    delay_ms: i32,
    ignored_parameters: Vec<String>,
    read_every: Option<String>,
    writes: bool,
    within: Vec<String>,
    without: Vec<String>,
    link_form: Option<serde_json::Value>,
    named_micropub: Option<String>,
}

impl SiteRow {
    fn into_site(self) -> Result<Site, StoreError> {
        let address = |text: &str| {
            Address::parse(text).map_err(|_| StoreError::Unknown { what: "an address", value: text.to_owned() })
        };
        Ok(Site {
            id: SiteId(self.id),
            link_form: self.link_form.and_then(|form| serde_json::from_value(form).ok()),
            named_micropub: self.named_micropub,
            entry: address(&self.entry)?,
            settings: Settings {
                name: self.name,
                source: match self.folder {
                    Some(path) => SiteSource::Folder { path, writes: self.writes },
                    None => SiteSource::Web { micropub: self.micropub },
                },
                entries: self.entries.iter().map(|entry| address(entry)).collect::<Result<_, _>>()?,
                roads: if self.roads == "content" { RoadsCount::Content } else { RoadsCount::All },
                most_pages: self.most_pages,
                delay_ms: self.delay_ms,
                ignored_parameters: self.ignored_parameters,
                read_every: self.read_every.as_deref().and_then(Every::parse),
                part: SitePart { within: self.within, without: self.without },
            },
        })
    }
}

/// All sites by name.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool) -> Result<Vec<Site>, StoreError> {
    let rows = sqlx::query_as!(
        SiteRow,
        "select id, name, entry, micropub, folder, roads, entries, most_pages, delay_ms, ignored_parameters,
                read_every, writes, within, without, link_form, named_micropub
         from site order by name, id"
    );
    rows.fetch_all(pool).await?.into_iter().map(SiteRow::into_site).collect()
}

/// # Errors
/// [`StoreError`].
pub async fn get(pool: &PgPool, site: SiteId) -> Result<Option<Site>, StoreError> {
    let row = sqlx::query_as!(
        SiteRow,
        "select id, name, entry, micropub, folder, roads, entries, most_pages, delay_ms, ignored_parameters,
                read_every, writes, within, without, link_form, named_micropub
         from site where id = $1",
        site.0,
    );
    row.fetch_optional(pool).await?.map(SiteRow::into_site).transpose()
}
