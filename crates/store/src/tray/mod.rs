//! Planned links: in the tray, on their way, out, dropped or taken back.

mod row;

use sqlx::types::Json;
use sqlx::{PgConnection, PgPool};
use strelm_core::site::ChangeId;
use strelm_core::tray::{Change, Ended, Placed, PlannedLink, TrayEntry, TrayState};

pub(crate) use self::row::sighting_word;
use self::row::{EntryRow, entries, word_of};
use crate::journal::{self, Entry};
use crate::release::ReleaseId;
use crate::target::WrittenTarget;
use crate::{Seq, SiteId, StoreError, lock, number, rule_number};

/// Puts a link into the tray, inside a transaction. A conflict says that a link from this page to that, or on these
/// words, is in the tray already.
pub(crate) async fn insert(tx: &mut PgConnection, site: SiteId, link: &PlannedLink) -> Result<ChangeId, StoreError> {
    let old = link.change.old();
    let wording = match &link.change {
        Change::Reword(wording) => Some(wording),
        _ => None,
    };
    let picture = match &link.change {
        Change::PutOnPicture(picture) => Some(picture.as_bytes()),
        _ => None,
    };
    let target = link.target.as_ref();
    let written = target.map(WrittenTarget::of).unwrap_or_default();
    let also_in = link.also_in();
    let id = sqlx::query_scalar!(
        "insert into taken_link (site_id, source_number, target_number, words_start, words_end, source_hash, anchor,
                                 before_anchor, after_anchor, href, fit, kind, from_href, from_address,
                                 from_fragment, says_before, says_anchor, says_after, picture, target_kind, target_place,
                                 target_address, target_planned, says, rule_number, rule_in_headings, rule_in_code)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, $20, $21, $22,
                 $23, $24, $25, $26, $27) returning id",
        site.0,
        number(link.source),
        written.number,
        offset(link.words.start),
        offset(link.words.end),
        link.source_hash.as_bytes(),
        link.said.anchor,
        link.said.before,
        link.said.after,
        link.href,
        link.fit.map(|fit| fit as f32),
        word_of(&link.change),
        old.map(|old| old.href.as_str()),
        old.map(|old| old.to.as_str()),
        old.and_then(|old| old.fragment.as_deref()),
        wording.map(|wording| wording.before.as_str()),
        wording.map(|wording| wording.anchor.as_str()),
        wording.map(|wording| wording.after.as_str()),
        picture,
        written.kind,
        written.place,
        written.address,
        written.planned,
        Json(&link.says) as _,
        link.by_rule.map(|by| rule_number(by.rule)),
        also_in.headings,
        also_in.code,
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
    from: TrayState,
    to: TrayState,
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

/// Notes where links of the tray stand after their pages changed. Links that meanwhile left the tray stay as they are.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn place(pool: &PgPool, site: SiteId, places: &[(ChangeId, Placed)]) -> Result<Option<Seq>, StoreError> {
    if places.is_empty() {
        return Ok(None);
    }
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    for (change, place) in places {
        match place {
            Placed::Anew { words, source_hash } => {
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
            Placed::Lost { message } => {
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

/// What is taken and not yet out, in the order of pages and words.
///
/// # Errors
/// [`StoreError`].
pub async fn planned(pool: &PgPool, site: SiteId) -> Result<Vec<TrayEntry>, StoreError> {
    let rows = entries!(
        "where site_id = $1 and state in ('tray', 'releasing', 'handed over') order by source_number, words_start, id",
        site.0,
    );
    rows.fetch_all(pool).await?.into_iter().map(EntryRow::into_entry).collect()
}

/// Entries by their numbers.
///
/// # Errors
/// [`StoreError`].
pub async fn by_id(pool: &PgPool, site: SiteId, changes: &[ChangeId]) -> Result<Vec<TrayEntry>, StoreError> {
    let ids: Vec<_> = changes.iter().map(|change| change.0).collect();
    let rows = entries!("where site_id = $1 and id = any($2) order by id", site.0, &ids);
    rows.fetch_all(pool).await?.into_iter().map(EntryRow::into_entry).collect()
}

/// Links of some releases, in the order of pages and words.
///
/// # Errors
/// [`StoreError`].
pub async fn of_releases(pool: &PgPool, releases: &[ReleaseId]) -> Result<Vec<(ReleaseId, TrayEntry)>, StoreError> {
    let ids: Vec<_> = releases.iter().map(|release| release.0).collect();
    let rows = entries!("where release_id = any($1) order by source_number, words_start, id", &ids);
    rows.fetch_all(pool).await?.into_iter().filter_map(|row| row.into_released().transpose()).collect()
}

/// Links that are handed over and were not seen yet, with the releases that they are of, in the order of pages and words.
///
/// # Errors
/// [`StoreError`].
pub async fn handed_over(pool: &PgPool, site: SiteId) -> Result<Vec<(ReleaseId, TrayEntry)>, StoreError> {
    let rows = entries!("where site_id = $1 and state = 'handed over' order by source_number, words_start, id", site.0);
    rows.fetch_all(pool).await?.into_iter().filter_map(|row| row.into_released().transpose()).collect()
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
