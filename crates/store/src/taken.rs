//! Links that were taken: in the tray, on their way, out, dropped or taken back.

use chrono::{DateTime, Utc};
use sqlx::{PgConnection, PgPool};
use strelm_core::document::{ContentHash, Sighting, TextSpan};
use strelm_core::site::{Address, ChangeId, PageId};

use crate::journal::{self, Entry};
use crate::release::ReleaseId;
use crate::sighted::sighting_of;
use crate::{Seq, SiteId, StoreError, lock, number, page_id};

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TakenState {
    Tray,
    Releasing,
    /// Somebody has it on a list, and it was not seen on the site yet.
    HandedOver,
    Out,
    Dropped,
    TakenBack,
}

impl TakenState {
    pub const ALL: [Self; 6] =
        [Self::Tray, Self::Releasing, Self::HandedOver, Self::Out, Self::Dropped, Self::TakenBack];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Tray => "tray",
            Self::Releasing => "releasing",
            Self::HandedOver => "handed over",
            Self::Out => "out",
            Self::Dropped => "dropped",
            Self::TakenBack => "taken back",
        }
    }

    /// Whether it waits in the tray, or is on its way out of it.
    pub const fn is_in_tray(self) -> bool {
        matches!(self, Self::Tray | Self::Releasing)
    }

    /// Whether the link is taken but not yet on the site.
    pub const fn is_planned(self) -> bool {
        matches!(self, Self::Tray | Self::Releasing | Self::HandedOver)
    }
}

/// What is done to words of a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Change {
    /// A link is put on them.
    Put,
    /// Their link leads elsewhere.
    Retarget(OldLink),
    /// Their link is taken off.
    Unlink(OldLink),
    /// They are a sentence, in whose place the editor's own wording comes, with a link on some of it.
    Reword(OwnWording),
    /// A link is put on a picture, which is known again by how it is written. Its words are empty, and its place is that
    /// of the text before it.
    PutOnPicture(ContentHash),
}

/// The editor's own wording of a sentence.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OwnWording {
    pub before: String,
    /// What carries the link.
    pub anchor: String,
    pub after: String,
}

/// A link that is on the page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OldLink {
    /// As it is written.
    pub href: String,
    /// Where that leads.
    pub to: Address,
    pub fragment: Option<String>,
}

impl Change {
    const fn as_str(&self) -> &'static str {
        match self {
            Self::Put => "put",
            Self::Retarget(_) => "retarget",
            Self::Unlink(_) => "unlink",
            Self::Reword(_) => "reword",
            Self::PutOnPicture(_) => "picture",
        }
    }

    /// The link that is there until the change is made.
    pub const fn old(&self) -> Option<&OldLink> {
        match self {
            Self::Put | Self::Reword(_) | Self::PutOnPicture(_) => None,
            Self::Retarget(old) | Self::Unlink(old) => Some(old),
        }
    }

    /// Whether a link comes to the page that was not there.
    pub const fn brings_link(&self) -> bool {
        matches!(self, Self::Put | Self::Reword(_) | Self::PutOnPicture(_))
    }

    const fn says(&self) -> Option<&OwnWording> {
        match self {
            Self::Reword(says) => Some(says),
            _ => None,
        }
    }

    const fn picture(&self) -> Option<&ContentHash> {
        match self {
            Self::PutOnPicture(picture) => Some(picture),
            _ => None,
        }
    }

    fn read(kind: &str, old: Option<OldLink>, says: Option<OwnWording>, picture: Option<ContentHash>) -> Option<Self> {
        match (kind, old, says, picture) {
            ("put", None, None, None) => Some(Self::Put),
            ("retarget", Some(old), None, None) => Some(Self::Retarget(old)),
            ("unlink", Some(old), None, None) => Some(Self::Unlink(old)),
            ("reword", None, Some(says), None) => Some(Self::Reword(says)),
            ("picture", None, None, Some(picture)) => Some(Self::PutOnPicture(picture)),
            _ => None,
        }
    }
}

/// A change of the links of a page.
#[derive(Debug, Clone)]
pub struct NewLink {
    pub change: Change,
    pub source: PageId,
    /// Where the words lead afterwards; `None` when they lead nowhere.
    pub target: Option<PageId>,
    /// In the text of the version of the source with `source_hash`; empty for a picture.
    pub words: TextSpan,
    pub source_hash: ContentHash,
    /// The words; of a picture what it says to whoever does not see it.
    pub anchor: String,
    pub before_anchor: String,
    pub after_anchor: String,
    pub href: String,
    /// `None` for words that the editor chose.
    pub fit: Option<f64>,
}

impl NewLink {
    /// The words that carry the link once the change is made.
    pub fn shown_anchor(&self) -> &str {
        match &self.change {
            Change::Reword(says) => &says.anchor,
            _ => &self.anchor,
        }
    }
}

#[derive(Debug, Clone)]
pub struct TakenLink {
    pub id: ChangeId,
    pub link: NewLink,
    pub state: TakenState,
    /// What was found when its page was last looked at, of a link that was handed over.
    pub sighting: Option<Sighting>,
    pub message: Option<String>,
    pub taken_at: DateTime<Utc>,
}

/// Puts a link into the tray, inside a transaction. A conflict says that a link from this page to that, or on these
/// words, is in the tray already.
pub(crate) async fn insert(tx: &mut PgConnection, site: SiteId, link: &NewLink) -> Result<ChangeId, StoreError> {
    let id = sqlx::query_scalar!(
        "insert into taken_link (site_id, source_number, target_number, words_start, words_end, source_hash, anchor,
                                 before_anchor, after_anchor, href, fit, kind, from_href, from_address,
                                 from_fragment, says_before, says_anchor, says_after, picture)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19) returning id",
        site.0,
        number(link.source),
        link.target.map(number),
        offset(link.words.start),
        offset(link.words.end),
        link.source_hash.as_bytes(),
        link.anchor,
        link.before_anchor,
        link.after_anchor,
        link.href,
        link.fit.map(|fit| fit as f32),
        link.change.as_str(),
        link.change.old().map(|old| old.href.as_str()),
        link.change.old().map(|old| old.to.as_str()),
        link.change.old().and_then(|old| old.fragment.as_deref()),
        link.change.says().map(|says| says.before.as_str()),
        link.change.says().map(|says| says.anchor.as_str()),
        link.change.says().map(|says| says.after.as_str()),
        link.change.picture().map(|picture| picture.as_bytes()),
    )
    .fetch_one(tx)
    .await?;
    Ok(ChangeId(id))
}

pub(crate) fn offset(at: usize) -> i32 {
    i32::try_from(at).unwrap_or(i32::MAX)
}

/// Moves links from one state to another, inside a transaction; gives those that were in it. A conflict says that
/// their words, or their pair of pages, carry another link in the tray meanwhile.
pub(crate) async fn move_between(
    tx: &mut PgConnection,
    site: SiteId,
    changes: &[ChangeId],
    from: TakenState,
    to: TakenState,
) -> Result<Vec<ChangeId>, StoreError> {
    let ids: Vec<_> = changes.iter().map(|change| change.0).collect();
    let moved = sqlx::query_scalar!(
        "update taken_link set state = $4, message = null where site_id = $1 and id = any($2) and state = $3
         returning id",
        site.0,
        &ids,
        from.as_str(),
        to.as_str(),
    )
    .fetch_all(tx)
    .await?;
    Ok(moved.into_iter().map(ChangeId).collect())
}

/// Where a link in the tray stands on a newer version of its page, or why it stands nowhere.
#[derive(Debug, Clone)]
pub enum Place {
    Anew { words: TextSpan, source_hash: ContentHash },
    Lost { message: String },
}

/// Notes where links of the tray stand after their pages changed. Links that meanwhile left the tray stay as they are.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn place(pool: &PgPool, site: SiteId, places: &[(ChangeId, Place)]) -> Result<Option<Seq>, StoreError> {
    if places.is_empty() {
        return Ok(None);
    }
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    for (change, place) in places {
        match place {
            Place::Anew { words, source_hash } => {
                sqlx::query!(
                    "update taken_link set words_start = $3, words_end = $4, source_hash = $5, message = null
                     where site_id = $1 and id = $2 and state in ('tray', 'releasing', 'handed over')",
                    site.0,
                    change.0,
                    offset(words.start),
                    offset(words.end),
                    source_hash.as_bytes(),
                )
                .execute(&mut *tx)
                .await?
            }
            Place::Lost { message } => {
                sqlx::query!(
                    "update taken_link set message = $3 where site_id = $1 and id = $2 and state = 'tray'",
                    site.0,
                    change.0,
                    message,
                )
                .execute(&mut *tx)
                .await?
            }
        };
    }
    let changes = places.iter().map(|(change, _)| *change).collect();
    let seq = journal::append(&mut *tx, site, &Entry::Taken(changes)).await?;
    tx.commit().await?;
    Ok(Some(seq))
}

struct Row {
    id: i64,
    source_number: i32,
    target_number: Option<i32>,
    words_start: i32,
    words_end: i32,
    source_hash: Vec<u8>,
    anchor: String,
    before_anchor: String,
    after_anchor: String,
    href: String,
    fit: Option<f32>,
    kind: String,
    from_href: Option<String>,
    from_address: Option<String>,
    from_fragment: Option<String>,
    says_before: Option<String>,
    says_anchor: Option<String>,
    says_after: Option<String>,
    picture: Option<Vec<u8>>,
    state: String,
    sighting: Option<String>,
    release_id: Option<i64>,
    message: Option<String>,
    taken_at: DateTime<Utc>,
}

impl Row {
    fn into_link(self) -> Result<TakenLink, StoreError> {
        let state = TakenState::ALL.into_iter().find(|state| state.as_str() == self.state);
        let hash = ContentHash::from_bytes(&self.source_hash);
        let offset = |at: i32| usize::try_from(at).unwrap_or_default();
        let to = self.from_address.and_then(|address| Address::parse(&address).ok());
        let old = self.from_href.zip(to).map(|(href, to)| OldLink { href, to, fragment: self.from_fragment });
        let says = self.says_before.zip(self.says_anchor).zip(self.says_after);
        let says = says.map(|((before, anchor), after)| OwnWording { before, anchor, after });
        let picture = self.picture.as_deref().and_then(ContentHash::from_bytes);
        let change = Change::read(&self.kind, old, says, picture);
        Ok(TakenLink {
            id: ChangeId(self.id),
            link: NewLink {
                source: page_id(self.source_number),
                change: change.ok_or(StoreError::Unknown { what: "a kind of change", value: self.kind })?,
                target: self.target_number.map(page_id),
                words: TextSpan::new(offset(self.words_start), offset(self.words_end)),
                source_hash: hash.ok_or(StoreError::Unknown { what: "a hash", value: self.id.to_string() })?,
                anchor: self.anchor,
                before_anchor: self.before_anchor,
                after_anchor: self.after_anchor,
                href: self.href,
                fit: self.fit.map(Into::into),
            },
            state: state.ok_or(StoreError::Unknown { what: "a state of a link", value: self.state })?,
            sighting: self.sighting.as_deref().and_then(sighting_of),
            message: self.message,
            taken_at: self.taken_at,
        })
    }
}

/// What is taken and not yet out, in the order of pages and words.
///
/// # Errors
/// [`StoreError`].
pub async fn planned(pool: &PgPool, site: SiteId) -> Result<Vec<TakenLink>, StoreError> {
    let rows = sqlx::query_as!(
        Row,
        "select id, source_number, target_number, words_start, words_end, source_hash, anchor, before_anchor,
                after_anchor, href, fit, kind, from_href, from_address, from_fragment, says_before,
                says_anchor, says_after, picture, state, sighting, release_id, message, taken_at
         from taken_link where site_id = $1 and state in ('tray', 'releasing', 'handed over')
         order by source_number, words_start, id",
        site.0,
    );
    rows.fetch_all(pool).await?.into_iter().map(Row::into_link).collect()
}

/// Taken links by their ids.
///
/// # Errors
/// [`StoreError`].
pub async fn by_id(pool: &PgPool, site: SiteId, changes: &[ChangeId]) -> Result<Vec<TakenLink>, StoreError> {
    let ids: Vec<_> = changes.iter().map(|change| change.0).collect();
    let rows = sqlx::query_as!(
        Row,
        "select id, source_number, target_number, words_start, words_end, source_hash, anchor, before_anchor,
                after_anchor, href, fit, kind, from_href, from_address, from_fragment, says_before,
                says_anchor, says_after, picture, state, sighting, release_id, message, taken_at
         from taken_link where site_id = $1 and id = any($2) order by id",
        site.0,
        &ids,
    );
    rows.fetch_all(pool).await?.into_iter().map(Row::into_link).collect()
}

/// Links of some releases, in the order of pages and words.
///
/// # Errors
/// [`StoreError`].
pub async fn of_releases(pool: &PgPool, releases: &[ReleaseId]) -> Result<Vec<(ReleaseId, TakenLink)>, StoreError> {
    let ids: Vec<_> = releases.iter().map(|release| release.0).collect();
    let rows = sqlx::query_as!(
        Row,
        "select id, source_number, target_number, words_start, words_end, source_hash, anchor, before_anchor,
                after_anchor, href, fit, kind, from_href, from_address, from_fragment, says_before,
                says_anchor, says_after, picture, state, sighting, release_id, message, taken_at
         from taken_link where release_id = any($1) order by source_number, words_start, id",
        &ids,
    );
    let rows = rows.fetch_all(pool).await?.into_iter();
    rows.filter_map(|row| Some((ReleaseId(row.release_id?), row))).map(|(id, row)| Ok((id, row.into_link()?))).collect()
}

/// How a link of a release ended.
#[derive(Debug, Clone)]
pub struct Ended {
    pub change: ChangeId,
    pub state: TakenState,
    pub message: Option<String>,
}

/// Notes how links of a release ended, inside a transaction.
pub(crate) async fn end(tx: &mut PgConnection, release: ReleaseId, ended: &[Ended]) -> Result<(), StoreError> {
    sqlx::query!(
        "update taken_link set state = ended.state, message = ended.message
         from unnest($2::bigint[], $3::text[], $4::text[]) as ended (id, state, message)
         where taken_link.id = ended.id and release_id = $1",
        release.0,
        &ended.iter().map(|link| link.change.0).collect::<Vec<_>>(),
        &ended.iter().map(|link| link.state.as_str().to_owned()).collect::<Vec<_>>(),
        &ended.iter().map(|link| link.message.clone()).collect::<Vec<_>>() as &[Option<String>],
    )
    .execute(tx)
    .await?;
    Ok(())
}

/// Links that are handed over and were not seen yet, with the releases that they are of, in the order of pages and words.
///
/// # Errors
/// [`StoreError`].
pub async fn handed_over(pool: &PgPool, site: SiteId) -> Result<Vec<(ReleaseId, TakenLink)>, StoreError> {
    let rows = sqlx::query_as!(
        Row,
        "select id, source_number, target_number, words_start, words_end, source_hash, anchor, before_anchor,
                after_anchor, href, fit, kind, from_href, from_address, from_fragment, says_before,
                says_anchor, says_after, picture, state, sighting, release_id, message, taken_at
         from taken_link where site_id = $1 and state = 'handed over' order by source_number, words_start, id",
        site.0,
    );
    let rows = rows.fetch_all(pool).await?.into_iter();
    rows.filter_map(|row| Some((ReleaseId(row.release_id?), row))).map(|(id, row)| Ok((id, row.into_link()?))).collect()
}
