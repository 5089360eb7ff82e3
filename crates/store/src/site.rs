//! Sites.

use sqlx::PgPool;
use strelm_core::site::Address;

use crate::StoreError;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct SiteId(pub i32);

#[derive(Debug, Clone)]
pub struct Site {
    pub id: SiteId,
    pub name: String,
    pub entry: String,
    /// Address of the editing interface.
    pub micropub: Option<String>,
}

/// Adds a site, or gives the one that has this entry page. The second value tells whether it is new.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn add(
    pool: &PgPool,
    name: &str,
    entry: &Address,
    micropub: Option<&str>,
) -> Result<(SiteId, bool), StoreError> {
    let row = sqlx::query!(
        "insert into site (name, entry, micropub) values ($1, $2, $3)
         on conflict (entry) do update set micropub = coalesce(excluded.micropub, site.micropub)
         returning id, xmax = 0 as \"is_new!\"",
        name,
        entry.as_str(),
        micropub,
    )
    .fetch_one(pool)
    .await?;
    Ok((SiteId(row.id), row.is_new))
}

/// # Errors
/// [`StoreError::Database`].
pub async fn all(pool: &PgPool) -> Result<Vec<Site>, StoreError> {
    let rows = sqlx::query_as!(Row, "select id, name, entry, micropub from site order by name, id");
    Ok(rows.fetch_all(pool).await?.into_iter().map(Row::into_site).collect())
}

struct Row {
    id: i32,
    name: String,
    entry: String,
    micropub: Option<String>,
}

impl Row {
    fn into_site(self) -> Site {
        Site { id: SiteId(self.id), name: self.name, entry: self.entry, micropub: self.micropub }
    }
}

/// # Errors
/// [`StoreError::Database`].
pub async fn get(pool: &PgPool, site: SiteId) -> Result<Option<Site>, StoreError> {
    let row = sqlx::query_as!(Row, "select id, name, entry, micropub from site where id = $1", site.0)
        .fetch_optional(pool)
        .await?;
    Ok(row.map(Row::into_site))
}
