//! What is kept of a site's habits, against a real PostgreSQL.

#![allow(clippy::unwrap_used)]

mod common;

use sqlx::PgPool;
use strelm_core::site::PageId;
use strelm_store::habits::{self, KeptHabits};
use strelm_store::page::{self, Gone};
use strelm_store::{SiteId, journal};

use common::*;

#[sqlx::test]
async fn the_latest_habits_are_kept_and_told_to_all_who_follow(pool: PgPool) {
    let site = small_site(&pool).await;
    assert_eq!(habits::get(&pool, site).await.unwrap(), None);
    let before = journal::end(&pool, site).await.unwrap().unwrap();
    for learnt in [Some("links 300"), None, Some("links 310")] {
        let kept = KeptHabits { learnt: learnt.map(str::to_owned), judge: [7; 32], links: 420 };
        habits::put(&pool, site, &kept).await.unwrap();
        assert_eq!(habits::get(&pool, site).await.unwrap(), Some(kept));
    }
    let entries = journal::after(&pool, site, before).await.unwrap().unwrap();
    assert_eq!(entries.iter().map(|(_, entry)| entry).collect::<Vec<_>>(), [&journal::Entry::Site; 3]);
    let nowhere = KeptHabits { learnt: None, judge: [0; 32], links: 0 };
    assert!(habits::put(&pool, SiteId(999), &nowhere).await.is_err());
}

#[sqlx::test]
async fn links_in_the_content_of_pages_that_are_there_are_counted(pool: PgPool) {
    let site = small_site(&pool).await;
    assert_eq!(habits::content_links(&pool, site).await.unwrap(), 3);
    page::mark_gone(&pool, site, &[(PageId(3), Gone::Vanished)]).await.unwrap();
    assert_eq!(habits::content_links(&pool, site).await.unwrap(), 1);
    assert_eq!(habits::content_links(&pool, SiteId(999)).await.unwrap(), 0);
}
