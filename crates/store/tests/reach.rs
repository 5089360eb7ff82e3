//! What a reading brought within reach, as it is kept, against a real PostgreSQL.

#![allow(clippy::unwrap_used)]

mod common;

use sqlx::PgPool;
use strelm_core::audit::{ReachChange, ReachEdit};
use strelm_core::site::PageId;
use strelm_store::reach_change;
use strelm_store::reading::{self, ReadingId, ReadingState};

use common::*;

async fn a_reading(pool: &PgPool, site: strelm_store::SiteId) -> ReadingId {
    let mut tx = pool.begin().await.unwrap();
    let (reading, _) = reading::begin(&mut tx, site).await.unwrap();
    tx.commit().await.unwrap();
    reading::end_run(pool, site, reading, ReadingState::Done, None).await.unwrap();
    reading
}

#[sqlx::test]
async fn of_two_who_compare_the_same_reading_one_is_kept(pool: PgPool) {
    let site = small_site(&pool).await;
    let (first, second) = (a_reading(&pool, site).await, a_reading(&pool, site).await);
    assert_eq!(reach_change::traces(&pool, site).await.unwrap(), None);
    assert!(reach_change::keep(&pool, site, first, b"ways", None, &[]).await.unwrap());
    assert!(!reach_change::keep(&pool, site, first, b"others", None, &[]).await.unwrap());
    assert_eq!(reach_change::traces(&pool, site).await.unwrap(), Some((first, b"ways".to_vec())));
    let (one, two, three) = (PageId(1), PageId(2), PageId(3));
    let all = [
        ReachChange { page: one, came: true, by: ReachEdit::Entry(one) },
        ReachChange { page: two, came: false, by: ReachEdit::Redirect { from: one, to: two } },
        ReachChange { page: three, came: true, by: ReachEdit::Link { from: two, to: three } },
    ];
    assert!(reach_change::keep(&pool, site, second, b"new", Some(first), &all).await.unwrap());
    assert_eq!(reach_change::all(&pool, site).await.unwrap(), all);
    // Whoever compared with the first one as well comes too late, and takes nothing away.
    assert!(!reach_change::keep(&pool, site, second, b"late", Some(first), &all[..1]).await.unwrap());
    assert_eq!(reach_change::all(&pool, site).await.unwrap(), all);
    let page = [ReachChange { page: two, came: false, by: ReachEdit::Page(two) }];
    assert!(reach_change::keep(&pool, site, second, b"newer", Some(second), &page).await.unwrap());
    assert_eq!(reach_change::all(&pool, site).await.unwrap(), page);
}
