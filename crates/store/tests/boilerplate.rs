//! What the database finds out of blocks that stand on many pages.

#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use std::collections::HashSet;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Region};
use strelm_core::site::{BlockKey, PageId, Repetition};
use strelm_store::boilerplate;
use strelm_store::page::{self, ReadBlock, ReadPage};

use common::*;

#[sqlx::test]
async fn what_most_pages_have_in_common_is_boilerplate_until_it_is_not(pool: PgPool) {
    let site = new_site(&pool).await;
    let (common, own) = (BlockKey::from_i64(-7), |n: i64| BlockKey::from_i64(100 + n));
    let page = |n: i64, has_common: bool| {
        let mut page = read(&format!("/{n}"), &format!("v{n}{has_common}"), &["/1", "/2"]);
        page.words = 15;
        page.blocks = vec![ReadBlock { key: own(n), words: Some(10) }];
        page.links[0].block = Some(own(n));
        if has_common {
            page.blocks.push(ReadBlock { key: common, words: Some(5) });
            page.links[1].block = Some(common);
        }
        page
    };
    let pages: Vec<_> = (1..=8).map(|n| page(n, n <= 6)).collect();
    page::put_all(&pool, site, None, &pages, &known_boilerplate(&pool, site).await).await.unwrap();
    let seen = || async {
        let links = page::links(&pool, site, Some(&[PageId(1)])).await.unwrap();
        let regions: Vec<_> = links.iter().map(|link| link.region).collect();
        let facts = page::facts(&pool, site, Some(&[PageId(1), PageId(8)])).await.unwrap();
        (regions, facts.iter().map(|page| page.facts.words).collect::<Vec<_>>())
    };
    assert!(boilerplate::settle(&pool, site).await.unwrap().is_some());
    assert_eq!(boilerplate::all(&pool, site).await.unwrap(), HashSet::from([common]));
    assert_eq!(seen().await, (vec![Region::Content, Region::Menu], vec![10, 10]));
    // Nothing more to do, and nothing is told.
    assert!(boilerplate::settle(&pool, site).await.unwrap().is_none());
    // A page that is read again by itself, as after a release, does not bring it back into the content.
    let again = ReadPage { main_html: "again".to_owned(), crawled_hash: ContentHash::of("again"), ..page(1, true) };
    page::put_all(&pool, site, None, &[again], &known_boilerplate(&pool, site).await).await.unwrap();
    assert_eq!(seen().await, (vec![Region::Content, Region::Menu], vec![10, 10]));
    // Most pages lose it: where it still is, it is content again.
    let changed: Vec<_> = (3..=6).map(|n| page(n, false)).collect();
    page::put_all(&pool, site, None, &changed, &known_boilerplate(&pool, site).await).await.unwrap();
    assert!(boilerplate::settle(&pool, site).await.unwrap().is_some());
    assert!(boilerplate::all(&pool, site).await.unwrap().is_empty());
    assert_eq!(seen().await, (vec![Region::Content, Region::Content], vec![15, 10]));
}

#[sqlx::test]
async fn the_database_finds_the_boilerplate_that_is_counted_page_by_page(pool: PgPool) {
    let site = new_site(&pool).await;
    let folders = [("/", 9), ("/moons/", 12), ("/moons/io?of=/dust/", 13), ("/dust/", 11), ("/dust/fine/", 30)];
    let mut repetition = Repetition::default();
    let mut pages = Vec::new();
    for (folder, count) in folders {
        for n in 0..count {
            let slash = if n % 3 == 0 && !folder.contains('?') { "/" } else { "" };
            let mut page = read(&format!("{folder}{n}{slash}"), &format!("v{n}"), &[]);
            // One of its own, and some of which each stands on another share of the pages.
            let own = i64::try_from(pages.len()).unwrap() + 1000;
            let some = (1..8).map(|every| if n % every == 0 { every } else { every + 100 });
            let some = some.map(|key| key + folder.len() as i64 % 3 * 10);
            let keys: HashSet<_> = some.chain([own]).map(BlockKey::from_i64).collect();
            repetition.add(&page.address, &keys);
            page.blocks = keys.into_iter().map(|key| ReadBlock { key, words: Some(1) }).collect();
            pages.push(page);
        }
    }
    page::put_all(&pool, site, None, &pages, &known_boilerplate(&pool, site).await).await.unwrap();
    boilerplate::settle(&pool, site).await.unwrap();
    let found = boilerplate::all(&pool, site).await.unwrap();
    assert!(found.len() > 2, "{found:?}");
    assert_eq!(found, repetition.boilerplate());
}
