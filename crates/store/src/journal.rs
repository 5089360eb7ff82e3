//! The ordered journal of a site's changes.

use sqlx::postgres::PgListener;
use sqlx::{PgExecutor, PgPool};
use strelm_core::site::{ChangeId, PageId};

use crate::{SiteId, StoreError, numbers, page_id};

/// Place in a site's journal; the first entry has 1.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Seq(pub i64);

/// What changed. Readers look up the new state themselves, so an entry read twice does no harm.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Entry {
    Pages(Vec<PageId>),
    Redirects,
    Taken(Vec<ChangeId>),
    /// Openings that would lead to a page.
    Passed(PageId),
    Reading,
    Release,
    /// What an editor sets for the site.
    Site,
    /// Auto-linking rules, their exceptions, and what holds for all of them.
    Rules,
}

impl Entry {
    /// All kinds, see [`Entry::kind`].
    pub const KINDS: [&'static str; 8] =
        ["pages", "redirects", "taken", "passed", "reading", "release", "site", "rules"];

    /// The word for what kind of change it is, as browsers are told it.
    pub const fn kind(&self) -> &'static str {
        match self {
            Self::Pages(_) => "pages",
            Self::Redirects => "redirects",
            Self::Taken(_) => "taken",
            Self::Passed(_) => "passed",
            Self::Reading => "reading",
            Self::Release => "release",
            Self::Site => "site",
            Self::Rules => "rules",
        }
    }

    fn from_row(kind: &str, pages: &[i32], changes: Vec<i64>) -> Option<Self> {
        Some(match kind {
            "pages" => Self::Pages(pages.iter().map(|number| page_id(*number)).collect()),
            "redirects" => Self::Redirects,
            "taken" => Self::Taken(changes.into_iter().map(ChangeId).collect()),
            "passed" => Self::Passed(page_id(*pages.last()?)),
            "reading" => Self::Reading,
            "release" => Self::Release,
            "site" => Self::Site,
            "rules" => Self::Rules,
            _ => return None,
        })
    }
}

/// Appends an entry. To be called last in a transaction: the site's row is held until it ends.
pub(crate) async fn append(executor: impl PgExecutor<'_>, site: SiteId, entry: &Entry) -> Result<Seq, StoreError> {
    let pages = match entry {
        Entry::Pages(pages) => numbers(pages),
        Entry::Passed(target) => numbers(&[*target]),
        _ => Vec::new(),
    };
    let changes: Vec<_> = match entry {
        Entry::Taken(changes) => changes.iter().map(|change| change.0).collect(),
        _ => Vec::new(),
    };
    let seq = sqlx::query_scalar!(
        "select journal_append($1, $2, $3, $4) as \"seq!\"",
        site.0,
        entry.kind(),
        &pages,
        &changes,
    )
    .fetch_one(executor)
    .await?;
    Ok(Seq(seq))
}

/// The end of a site's journal; `None` when there is no such site.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn end(pool: &PgPool, site: SiteId) -> Result<Option<Seq>, StoreError> {
    let end = sqlx::query_scalar!("select journal_at from site where id = $1", site.0).fetch_optional(pool).await?;
    Ok(end.map(Seq))
}

/// Entries that are kept at least; whoever is further behind loads everything anew.
const KEPT: i64 = 20_000;

/// Removes old entries.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn prune(pool: &PgPool, site: SiteId) -> Result<(), StoreError> {
    sqlx::query!(
        "delete from journal where site_id = $1 and seq <= (select journal_at from site where id = $1) - $2",
        site.0,
        KEPT,
    )
    .execute(pool)
    .await?;
    Ok(())
}

/// Entries after `seq`, in order; `None` when some of them are no longer kept.
///
/// # Errors
/// [`StoreError`]; an entry of a kind that this version does not know is an error, since the model would be wrong.
pub async fn after(pool: &PgPool, site: SiteId, seq: Seq) -> Result<Option<Vec<(Seq, Entry)>>, StoreError> {
    let rows = sqlx::query!(
        "select seq, kind, pages, changes from journal where site_id = $1 and seq > $2 order by seq",
        site.0,
        seq.0,
    )
    .fetch_all(pool)
    .await?;
    let entry = |row: (i64, String, Vec<i32>, Vec<i64>)| {
        let (seq, kind, pages, changes) = row;
        let entry = Entry::from_row(&kind, &pages, changes);
        entry.map(|entry| (Seq(seq), entry)).ok_or(StoreError::Unknown { what: "a journal entry", value: kind })
    };
    if rows.first().is_some_and(|row| row.seq != seq.0 + 1) {
        return Ok(None);
    }
    rows.into_iter().map(|row| entry((row.seq, row.kind, row.pages, row.changes))).collect::<Result<_, _>>().map(Some)
}

/// That a site's journal grew.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Growth {
    pub site: SiteId,
    pub seq: Seq,
    /// The kind of the entry, see [`Entry::kind`]; `None` where it is not known.
    pub kind: Option<&'static str>,
}

/// Tells which site's journal grew, whichever process wrote to it.
pub struct Listener(PgListener);

impl Listener {
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn start(pool: &PgPool) -> Result<Self, StoreError> {
        let mut listener = PgListener::connect_with(pool).await?;
        listener.listen("strelm_journal").await?;
        Ok(Self(listener))
    }

    /// Waits for the next notice. `None` says that the connection was lost and made again, so that notices may be
    /// missing: whoever follows a journal looks at its end then.
    ///
    /// # Errors
    /// [`StoreError::Database`] when the connection cannot be made again.
    pub async fn next(&mut self) -> Result<Option<Growth>, StoreError> {
        loop {
            let Some(notice) = self.0.try_recv().await? else { return Ok(None) };
            let mut parts = notice.payload().split(':');
            let (site, seq, kind) = (parts.next(), parts.next(), parts.next());
            let number = |part: Option<&str>| part.and_then(|part| part.parse().ok());
            let of_site = site.and_then(|site| site.parse().ok()).map(SiteId);
            if let Some((site, seq)) = of_site.zip(number(seq).map(Seq)) {
                // A process of an earlier version does not say the kind.
                let kind = kind.and_then(|kind| Entry::KINDS.into_iter().find(|known| *known == kind));
                return Ok(Some(Growth { site, seq, kind }));
            }
        }
    }
}
