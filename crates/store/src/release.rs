//! Releases: the tray sent to the site together, and taken back whole.

use chrono::{DateTime, Utc};
use sqlx::{PgConnection, PgPool};
use strelm_core::site::{ChangeId, PageId};

use crate::journal::{self, Entry};
use crate::site::Way;
use crate::taken;
use crate::{Seq, SiteId, StoreError, lock, number, page_id};

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct ReleaseId(pub i64);

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
    pub const ALL: [Self; 6] =
        [Self::Waiting, Self::Running, Self::Interrupted, Self::Out, Self::TakingBack, Self::TakenBack];

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

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PageState {
    Waiting,
    Out,
    HeldBack,
    TakenBack,
    NotTakenBack,
}

impl PageState {
    pub const ALL: [Self; 5] = [Self::Waiting, Self::Out, Self::HeldBack, Self::TakenBack, Self::NotTakenBack];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Waiting => "waiting",
            Self::Out => "out",
            Self::HeldBack => "held back",
            Self::TakenBack => "taken back",
            Self::NotTakenBack => "not taken back",
        }
    }
}

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

#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReleasePage {
    pub release: ReleaseId,
    pub page: PageId,
    pub state: PageState,
    pub message: Option<String>,
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

/// Notes what a page is and what it will be, before it goes out: so a crash in between can be understood.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn note_versions(
    pool: &PgPool,
    release: ReleaseId,
    page: PageId,
    before: &str,
    after: &str,
) -> Result<(), StoreError> {
    sqlx::query!(
        "update release_page set before_html = $3, after_html = $4 where release_id = $1 and page_number = $2",
        release.0,
        number(page),
        before,
        after,
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// Notes how a page ended, and how each of its links did.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn finish_page(
    pool: &PgPool,
    site: SiteId,
    page: &ReleasePage,
    ended: &[taken::Ended],
) -> Result<Seq, StoreError> {
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    sqlx::query!(
        "update release_page set state = $3, message = $4 where release_id = $1 and page_number = $2",
        page.release.0,
        number(page.page),
        page.state.as_str(),
        page.message,
    )
    .execute(&mut *tx)
    .await?;
    taken::end(&mut tx, page.release, ended).await?;
    // Somebody works on it.
    sqlx::query!("update release set queued_at = now() where id = $1", page.release.0).execute(&mut *tx).await?;
    let changes = ended.iter().map(|link| link.change).collect();
    journal::append(&mut *tx, site, &Entry::Taken(changes)).await?;
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
    let rows = sqlx::query_as!(
        Row,
        "select id, state, way, message, created_at, finished_at, taken_back_at from release where site_id = $1
         order by id desc limit $2",
        site.0,
        most,
    );
    rows.fetch_all(pool).await?.into_iter().map(Row::into_release).collect()
}

/// # Errors
/// [`StoreError`].
pub async fn get(pool: &PgPool, site: SiteId, release: ReleaseId) -> Result<Option<Release>, StoreError> {
    let row = sqlx::query_as!(
        Row,
        "select id, state, way, message, created_at, finished_at, taken_back_at from release where site_id = $1 and id = $2",
        site.0,
        release.0,
    );
    row.fetch_optional(pool).await?.map(Row::into_release).transpose()
}

struct Row {
    id: i64,
    state: String,
    way: String,
    message: Option<String>,
    created_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    taken_back_at: Option<DateTime<Utc>>,
}

impl Row {
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

/// Pages of some releases without their sources, in the order of releases and pages.
///
/// # Errors
/// [`StoreError`].
pub async fn pages(pool: &PgPool, releases: &[ReleaseId]) -> Result<Vec<ReleasePage>, StoreError> {
    let ids: Vec<_> = releases.iter().map(|release| release.0).collect();
    let rows = sqlx::query!(
        "select release_id, page_number, state, message from release_page
         where release_id = any($1) order by release_id, page_number",
        &ids,
    )
    .fetch_all(pool)
    .await?;
    let page = |(release, number, name, message): (i64, i32, String, Option<String>)| {
        let state = PageState::ALL.into_iter().find(|state| state.as_str() == name);
        let state = state.ok_or(StoreError::Unknown { what: "a state of a released page", value: name })?;
        Ok(ReleasePage { release: ReleaseId(release), page: page_id(number), state, message })
    };
    rows.into_iter().map(|row| page((row.release_id, row.page_number, row.state, row.message))).collect()
}

/// A released page's source before and after; `None` until it is about to go out.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn versions(pool: &PgPool, release: ReleaseId, page: PageId) -> Result<Option<(String, String)>, StoreError> {
    let row = sqlx::query!(
        "select before_html, after_html from release_page where release_id = $1 and page_number = $2",
        release.0,
        number(page),
    )
    .fetch_optional(pool)
    .await?;
    Ok(row.and_then(|row| row.before_html.zip(row.after_html)))
}

/// The sources before and after of all pages of a release that have them, in the order of pages.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn all_versions(pool: &PgPool, release: ReleaseId) -> Result<Vec<(PageId, String, String)>, StoreError> {
    let rows = sqlx::query!(
        "select page_number, before_html as \"before!\", after_html as \"after!\" from release_page
         where release_id = $1 and before_html is not null and after_html is not null order by page_number",
        release.0,
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|row| (page_id(row.page_number), row.before, row.after)).collect())
}

/// The sources that pages of releases had before, in no order.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn sources_before(
    pool: &PgPool,
    pages: &[(ReleaseId, PageId)],
) -> Result<Vec<((ReleaseId, PageId), String)>, StoreError> {
    let rows = sqlx::query!(
        "select release_id, page_number, before_html as \"before!\"
         from release_page join unnest($1::bigint[], $2::int[]) as wanted (release, page)
              on release_id = wanted.release and page_number = wanted.page
         where before_html is not null",
        &pages.iter().map(|(release, _)| release.0).collect::<Vec<_>>(),
        &pages.iter().map(|(_, page)| number(*page)).collect::<Vec<_>>(),
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|row| ((ReleaseId(row.release_id), page_id(row.page_number)), row.before)).collect())
}
