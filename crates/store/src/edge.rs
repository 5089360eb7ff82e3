//! What editors set for the edges of a site, and which edges run.

use chrono::{DateTime, Utc};
use sqlx::PgPool;
use strelm_core::passing::FooterLinks;

use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError};

/// An edge that was not heard of for so long does not run any more, in seconds.
const SILENT: f64 = 30.0;

/// What an editor sets for the edges of a site.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct EdgeSettings {
    /// Whether what is handed over is put into pages as they pass.
    pub carries: bool,
    pub footer: FooterLinks,
}

/// An edge that runs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RunningEdge {
    /// Where it listens.
    pub address: String,
    pub upstream: String,
    pub seen_at: DateTime<Utc>,
}

/// # Errors
/// [`StoreError`].
pub async fn get(pool: &PgPool, site: SiteId) -> Result<EdgeSettings, StoreError> {
    let row = sqlx::query!("select carries, footer from edge_setting where site_id = $1", site.0)
        .fetch_optional(pool)
        .await?;
    let Some(row) = row else { return Ok(EdgeSettings::default()) };
    let unknown = |_| StoreError::Unknown { what: "a footer", value: row.footer.to_string() };
    Ok(EdgeSettings { carries: row.carries, footer: serde_json::from_value(row.footer.clone()).map_err(unknown)? })
}

/// Sets all of it.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn set(pool: &PgPool, site: SiteId, settings: &EdgeSettings) -> Result<Seq, StoreError> {
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "insert into edge_setting (site_id, carries, footer) values ($1, $2, $3)
         on conflict (site_id) do update set carries = excluded.carries, footer = excluded.footer",
        site.0,
        settings.carries,
        serde_json::json!(settings.footer),
    )
    .execute(&mut *tx)
    .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Rules).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Notes that an edge runs, and forgets those that were not heard of for long.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_running(pool: &PgPool, site: SiteId, address: &str, upstream: &str) -> Result<(), StoreError> {
    sqlx::query!(
        "with silent as (delete from edge_running where site_id = $1 and address <> $2
                         and seen_at < now() - make_interval(secs => $4))
         insert into edge_running (site_id, address, upstream) values ($1, $2, $3)
         on conflict (site_id, address) do update set upstream = excluded.upstream, seen_at = now()",
        site.0,
        address,
        upstream,
        SILENT,
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// Notes that an edge ends.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_end(pool: &PgPool, site: SiteId, address: &str) -> Result<(), StoreError> {
    sqlx::query!("delete from edge_running where site_id = $1 and address = $2", site.0, address).execute(pool).await?;
    Ok(())
}

/// The edges of a site that run.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn running(pool: &PgPool, site: SiteId) -> Result<Vec<RunningEdge>, StoreError> {
    let running = sqlx::query_as!(
        RunningEdge,
        "select address, upstream, seen_at from edge_running
         where site_id = $1 and seen_at > now() - make_interval(secs => $2) order by address",
        site.0,
        SILENT,
    );
    Ok(running.fetch_all(pool).await?)
}
