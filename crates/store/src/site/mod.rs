//! Sites: added, set, looked up and deleted.

mod row;
mod settings;

use sqlx::PgPool;
use strelm_core::site::{Address, LinkForm, RoadsCount};

use self::row::SiteRow;
pub use self::settings::{Every, Settings, Site, SiteId, SiteSource, Way};
use crate::journal::{self, Entry};
use crate::{Seq, StoreError};

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
                           ignored_parameters, read_every, writes, within, without, heeds_nofollow,
                           equity_content, equity_menu, equity_footer, equity_damping)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19)
         on conflict (entry) do update set entry = excluded.entry
         returning id, xmax = 0 as \"is_new!\"",
        settings.name,
        entry.as_str(),
        micropub,
        source,
        folder,
        roads_word(settings.roads.from),
        &entries,
        settings.most_pages,
        settings.delay_ms,
        &settings.ignored_parameters,
        settings.read_every.map(Every::as_str),
        writes,
        &settings.part.within,
        &settings.part.without,
        !settings.roads.nofollow,
        settings.equity.content,
        settings.equity.menu,
        settings.equity.footer,
        settings.equity.damping,
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
                         ignored_parameters = $8, read_every = $9, writes = $10, within = $11, without = $12,
                         heeds_nofollow = $13, equity_content = $14, equity_menu = $15, equity_footer = $16,
                         equity_damping = $17
         where id = $1",
        site.0,
        settings.name,
        micropub,
        roads_word(settings.roads.from),
        &entries,
        settings.most_pages,
        settings.delay_ms,
        &settings.ignored_parameters,
        settings.read_every.map(Every::as_str),
        writes,
        &settings.part.within,
        &settings.part.without,
        !settings.roads.nofollow,
        settings.equity.content,
        settings.equity.menu,
        settings.equity.footer,
        settings.equity.damping,
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

/// All sites by name.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool) -> Result<Vec<Site>, StoreError> {
    let rows = sqlx::query_as!(
        SiteRow,
        "select id, name, entry, micropub, folder, roads, entries, most_pages, delay_ms, ignored_parameters,
                read_every, writes, within, without, link_form, named_micropub, heeds_nofollow,
                equity_content, equity_menu, equity_footer, equity_damping
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
                read_every, writes, within, without, link_form, named_micropub, heeds_nofollow,
                equity_content, equity_menu, equity_footer, equity_damping
         from site where id = $1",
        site.0,
    );
    row.fetch_optional(pool).await?.map(SiteRow::into_site).transpose()
}
