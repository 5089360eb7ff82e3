//! Releases: the tray sent to the site together, and taken back whole.

mod page;

use chrono::{DateTime, Utc};
use sqlx::{PgConnection, PgPool};
use strelm_core::site::ChangeId;

use crate::journal::{self, Entry};
use crate::site::Way;
use crate::{Seq, SiteId, StoreError, lock};

pub use page::{PageState, ReleasePage, all_versions, finish_page, note_versions, pages, sources_before, versions};

/// Releases, in an order: the rest of a query after `from release`.
macro_rules! releases {
    ($rest:tt, $($argument:expr),* $(,)?) => {
        sqlx::query_as!(
            ReleaseRow,
            "select id, state, way, message, created_at, finished_at, taken_back_at from release " + $rest,
            $($argument),*
        )
    };
}

/// The number of a release.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct ReleaseId(pub i64);

/// How far a release is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReleaseState {
    Waiting,
    Running,
    /// Broke off with pages that still wait; somebody decides how it goes on.
    Interrupted,
    Out,
    TakingBack,
    TakenBack,
}

impl ReleaseState {
    /// All states, in their order.
    pub const ALL: [Self; 6] =
        [Self::Waiting, Self::Running, Self::Interrupted, Self::Out, Self::TakingBack, Self::TakenBack];

    /// Its name in the database.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Waiting => "waiting",
            Self::Running => "running",
            Self::Interrupted => "interrupted",
            Self::Out => "out",
            Self::TakingBack => "taking back",
            Self::TakenBack => "taken back",
        }
    }
}

/// A release: what went out together.
#[derive(Debug, Clone)]
pub struct Release {
    pub id: ReleaseId,
    pub state: ReleaseState,
    pub way: Way,
    /// Why it was interrupted.
    pub message: Option<String>,
    pub created_at: DateTime<Utc>,
    pub finished_at: Option<DateTime<Utc>>,
    pub taken_back_at: Option<DateTime<Utc>>,
}

/// Gathers the tray into a release, inside a transaction. `None` when the tray is empty; a conflict says that a
/// release is under way.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn begin(tx: &mut PgConnection, site: SiteId, way: Way) -> Result<Option<(ReleaseId, Seq)>, StoreError> {
    lock::tray(tx, site).await?;
    let id =
        sqlx::query_scalar!("insert into release (site_id, way) values ($1, $2) returning id", site.0, way.as_str(),)
            .fetch_one(&mut *tx)
            .await?;
    let changes = sqlx::query_scalar!(
        "update taken_link set state = 'releasing', release_id = $2, message = null
         where site_id = $1 and state = 'tray' returning id",
        site.0,
        id,
    )
    .fetch_all(&mut *tx)
    .await?;
    if changes.is_empty() {
        return Ok(None);
    }
    sqlx::query!(
        "insert into release_page (release_id, site_id, page_number)
         select distinct $2::bigint, site_id, source_number from taken_link where site_id = $1 and release_id = $2",
        site.0,
        id,
    )
    .execute(&mut *tx)
    .await?;
    let changes = changes.into_iter().map(ChangeId).collect();
    journal::append(&mut *tx, site, &Entry::Taken(changes)).await?;
    let seq = journal::append(&mut *tx, site, &Entry::Release).await?;
    Ok(Some((ReleaseId(id), seq)))
}

/// Orders a release to be taken back, inside a transaction. `None` when it is not out, or nothing of it is.
///
/// # Errors
/// [`StoreError::Database`]; a conflict says that another release is under way.
pub async fn begin_taking_back(
    tx: &mut PgConnection,
    site: SiteId,
    release: ReleaseId,
) -> Result<Option<Seq>, StoreError> {
    let ordered = sqlx::query!(
        "update release set state = 'taking back', queued_at = now()
         where site_id = $1 and id = $2 and state = 'out' and way = 'written'
         and exists (select from release_page where release_id = $2 and state in ('out', 'not taken back'))",
        site.0,
        release.0,
    )
    .execute(&mut *tx)
    .await?;
    if ordered.rows_affected() == 0 {
        return Ok(None);
    }
    Ok(Some(journal::append(tx, site, &Entry::Release).await?))
}

/// # Errors
/// [`StoreError::Database`].
pub async fn set_state(
    pool: &PgPool,
    site: SiteId,
    release: ReleaseId,
    state: ReleaseState,
    message: Option<&str>,
) -> Result<Seq, StoreError> {
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "update release set state = $2, message = $3,
                finished_at = case when $2 = 'out' then coalesce(finished_at, now()) else finished_at end,
                taken_back_at = case when $2 = 'taken back' then now() else taken_back_at end
         where id = $1",
        release.0,
        state.as_str(),
        message,
    )
    .execute(&mut *tx)
    .await?;
    let seq = journal::append(&mut *tx, site, &Entry::Release).await?;
    tx.commit().await?;
    Ok(seq)
}

/// Orders an interrupted release to go on, inside a transaction; `None` when it is not interrupted.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn go_on(tx: &mut PgConnection, site: SiteId, release: ReleaseId) -> Result<Option<Seq>, StoreError> {
    let ordered = sqlx::query!(
        "update release set state = 'waiting', message = null, queued_at = now()
         where site_id = $1 and id = $2 and state = 'interrupted'",
        site.0,
        release.0,
    )
    .execute(&mut *tx)
    .await?;
    if ordered.rows_affected() == 0 {
        return Ok(None);
    }
    Ok(Some(journal::append(tx, site, &Entry::Release).await?))
}

/// Puts what has not gone out of an interrupted release back into the tray and ends it; `None` when it is not
/// interrupted.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn give_up(pool: &PgPool, site: SiteId, release: ReleaseId) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    let ended = sqlx::query!(
        "update release set state = 'out', message = null, finished_at = coalesce(finished_at, now())
         where site_id = $1 and id = $2 and state = 'interrupted'",
        site.0,
        release.0,
    )
    .execute(&mut *tx)
    .await?;
    if ended.rows_affected() == 0 {
        return Ok(None);
    }
    sqlx::query!(
        "update release_page set state = 'held back', message = 'Put back into the tray.'
         where release_id = $1 and state = 'waiting'",
        release.0,
    )
    .execute(&mut *tx)
    .await?;
    let back = sqlx::query_scalar!(
        "update taken_link set state = 'tray', message = null where release_id = $1 and state = 'releasing' returning id",
        release.0,
    )
    .fetch_all(&mut *tx)
    .await?;
    journal::append(&mut *tx, site, &Entry::Taken(back.into_iter().map(ChangeId).collect())).await?;
    let seq = journal::append(&mut *tx, site, &Entry::Release).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Puts the links that were handed over and not seen on the site yet back into the tray; `None` when there are none.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn withdraw(pool: &PgPool, site: SiteId, release: ReleaseId) -> Result<Option<Seq>, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    let back = sqlx::query!(
        "update taken_link set state = 'tray', sighting = null, message = null
         where site_id = $1 and release_id = $2 and state = 'handed over'
         and exists (select from release where id = $2 and state = 'out') returning id",
        site.0,
        release.0,
    )
    .fetch_all(&mut *tx)
    .await?;
    if back.is_empty() {
        return Ok(None);
    }
    sqlx::query!(
        "update release set state = 'taken back', message = null, taken_back_at = now() where site_id = $1 and id = $2",
        site.0,
        release.0,
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update release_page set state = 'taken back' where release_id = $1 and state = 'out'
         and not exists (select from taken_link where release_id = $1 and source_number = page_number and state = 'out')",
        release.0,
    )
    .execute(&mut *tx)
    .await?;
    journal::append(&mut *tx, site, &Entry::Taken(back.iter().map(|row| ChangeId(row.id)).collect())).await?;
    let seq = journal::append(&mut *tx, site, &Entry::Release).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

/// Releases that should be under way and were last put on the queue some seconds ago, with whether they are being taken
/// back; they are marked as put there now. See [`crate::reading::overdue`].
///
/// # Errors
/// [`StoreError::Database`].
pub async fn overdue(tx: &mut PgConnection, seconds: f64) -> Result<Vec<(SiteId, ReleaseId, bool)>, StoreError> {
    let rows = sqlx::query!(
        "update release set queued_at = now()
         where state in ('waiting', 'running', 'taking back') and queued_at < now() - make_interval(secs => $1)
         returning site_id, id, state = 'taking back' as \"back!\"",
        seconds,
    )
    .fetch_all(tx)
    .await?;
    Ok(rows.into_iter().map(|row| (SiteId(row.site_id), ReleaseId(row.id), row.back)).collect())
}

/// Releases of a site, the latest first.
///
/// # Errors
/// [`StoreError`].
pub async fn all(pool: &PgPool, site: SiteId, most: i64) -> Result<Vec<Release>, StoreError> {
    let rows = releases!(
        "where site_id = $1
         order by id desc limit $2",
        site.0,
        most,
    );
    rows.fetch_all(pool).await?.into_iter().map(ReleaseRow::into_release).collect()
}

/// # Errors
/// [`StoreError`].
pub async fn get(pool: &PgPool, site: SiteId, release: ReleaseId) -> Result<Option<Release>, StoreError> {
    let row = releases!("where site_id = $1 and id = $2", site.0, release.0,);
    row.fetch_optional(pool).await?.map(ReleaseRow::into_release).transpose()
}

struct ReleaseRow {
    id: i64,
    state: String,
    way: String,
    message: Option<String>,
    created_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    taken_back_at: Option<DateTime<Utc>>,
}

impl ReleaseRow {
    fn into_release(self) -> Result<Release, StoreError> {
        let state = ReleaseState::ALL.into_iter().find(|state| state.as_str() == self.state);
        Ok(Release {
            id: ReleaseId(self.id),
            state: state.ok_or(StoreError::Unknown { what: "a state of a release", value: self.state })?,
            way: Way::parse(&self.way).ok_or(StoreError::Unknown { what: "a way to a site", value: self.way })?,
            message: self.message,
            created_at: self.created_at,
            finished_at: self.finished_at,
            taken_back_at: self.taken_back_at,
        })
    }
}
