//! What became of links that were handed over, as readings see it.

use sqlx::PgPool;
use strelm_core::document::TextSpan;
use strelm_core::site::ChangeId;
use strelm_core::tray::Seen;

use crate::journal::{self, Entry};
use crate::tray::{offset, sighting_word};
use crate::{Seq, SiteId, StoreError, lock};

/// What a look at its page found of a link that was handed over.
#[derive(Debug, Clone)]
pub struct Sighted {
    pub change: ChangeId,
    pub seen: Seen,
}

/// Notes what was found of links that were handed over: those that are there are out. Links that are not handed over
/// any more stay as they are.
///
/// # Errors
/// [`StoreError::Database`].
pub async fn sight(pool: &PgPool, site: SiteId, sighted: &[Sighted]) -> Result<Option<Seq>, StoreError> {
    if sighted.is_empty() {
        return Ok(None);
    }
    let mut tx = pool.begin().await?;
    lock::tray(&mut tx, site).await?;
    let place = |of: fn(&TextSpan) -> usize| -> Vec<_> {
        sighted.iter().map(|link| link.seen.words.as_ref().map(|(words, _)| offset(of(words)))).collect()
    };
    sqlx::query!(
        "update taken_link set
             state = case when found.sighting in ('there', 'other words') then 'out' else 'handed over' end,
             sighting = found.sighting, words_start = coalesce(found.words_start, taken_link.words_start),
             words_end = coalesce(found.words_end, taken_link.words_end),
             source_hash = coalesce(found.source_hash, taken_link.source_hash)
         from unnest($2::bigint[], $3::text[], $4::int[], $5::int[], $6::bytea[])
             as found (id, sighting, words_start, words_end, source_hash)
         where taken_link.id = found.id and site_id = $1 and state = 'handed over'",
        site.0,
        &sighted.iter().map(|link| link.change.0).collect::<Vec<_>>(),
        &sighted.iter().map(|link| sighting_word(link.seen.sighting).to_owned()).collect::<Vec<_>>(),
        &place(|words| words.start) as &[Option<i32>],
        &place(|words| words.end) as &[Option<i32>],
        &sighted.iter().map(|link| link.seen.words.map(|(_, hash)| hash.as_bytes().to_vec())).collect::<Vec<_>>()
            as &[Option<Vec<u8>>],
    )
    .execute(&mut *tx)
    .await?;
    let changes = sighted.iter().map(|link| link.change).collect();
    journal::append(&mut *tx, site, &Entry::Taken(changes)).await?;
    let seq = journal::append(&mut *tx, site, &Entry::Release).await?;
    tx.commit().await?;
    Ok(Some(seq))
}
