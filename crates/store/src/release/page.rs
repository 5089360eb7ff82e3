//! Pages of a release: how each ended, what it was and what it is to be.

use sqlx::PgPool;
use strelm_core::site::PageId;
use strelm_core::tray::Ended;

use super::ReleaseId;
use crate::journal::{self, Entry};
use crate::{Seq, SiteId, StoreError, lock, number, page_id, tray};

/// What became of a page in a release.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PageState {
    Waiting,
    Out,
    HeldBack,
    TakenBack,
    NotTakenBack,
}

impl PageState {
    /// All states.
    pub const ALL: [Self; 5] = [Self::Waiting, Self::Out, Self::HeldBack, Self::TakenBack, Self::NotTakenBack];

    /// Its name in the database.
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

/// A page of a release, with both of its versions.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReleasePage {
    pub release: ReleaseId,
    pub page: PageId,
    pub state: PageState,
    pub message: Option<String>,
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
pub async fn finish_page(pool: &PgPool, site: SiteId, page: &ReleasePage, ended: &[Ended]) -> Result<Seq, StoreError> {
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
    tray::end(&mut tx, page.release, ended).await?;
    // Somebody works on it.
    sqlx::query!("update release set queued_at = now() where id = $1", page.release.0).execute(&mut *tx).await?;
    let changes = ended.iter().map(|link| link.change).collect();
    journal::append(&mut *tx, site, &Entry::Taken(changes)).await?;
    let seq = journal::append(&mut *tx, site, &Entry::Release).await?;
    tx.commit().await?;
    Ok(seq)
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
