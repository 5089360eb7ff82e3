//! Targets of every kind, kept as they are; and what a database of before they were there becomes.

#![allow(clippy::unwrap_used)]

mod common;

use std::borrow::Cow;

use sqlx::PgPool;
use sqlx::migrate::Migrator;
use strelm_core::document::{LinkAttributes, LinkSays, TextSpan};
use strelm_core::site::{PageId, PhoneNumber, Target};
use strelm_core::tray::{Change, OldLink, PlannedLink};
use strelm_store::page;
use strelm_store::{SiteId, StoreError, planned_page, tray};

use common::*;

static MIGRATIONS: Migrator = sqlx::migrate!();

/// The last migration before targets of every kind.
const BEFORE: i64 = 15;

fn targets(planned: strelm_core::site::PlannedPageId) -> Vec<Target> {
    vec![
        Target::Page(PageId(2)),
        Target::Place { page: PageId(1), id: "ünder 100%".to_owned() },
        Target::PlannedPage(planned),
        Target::outside("https://elsewhere.example/a?b=c#d%20e").unwrap(),
        Target::outside("https://elsewhere.example/").unwrap(),
        Target::mail("mailto:a@b.example,c@d.example?subject=On%20moons%20%26%20%C3%84ther").unwrap(),
        Target::Phone(PhoneNumber::parse("+43 1 234/567").unwrap()),
        Target::File(address("files/chart.pdf")),
    ]
}

#[sqlx::test]
async fn every_kind_of_target_and_all_that_a_link_says_is_kept(pool: PgPool) {
    let site = small_site(&pool).await;
    let (planned, _) = planned_page::put(&pool, site, &address("to-come"), "To come").await.unwrap();
    let says = vec![LinkSays::Sponsored(true), LinkSays::Attribute("title".to_owned(), Some("“x”".to_owned()))];
    let mut expected = Vec::new();
    for (at, target) in targets(planned).into_iter().enumerate() {
        let words = TextSpan::new(at * 10, at * 10 + 4);
        let link = PlannedLink { target: Some(target), words, says: says.clone(), ..new_link(1, 2) };
        take(&pool, site, &link).await.unwrap();
        expected.push(link);
    }
    let old = OldLink { href: "/b".to_owned(), to: address("b"), fragment: None };
    let words = TextSpan::new(200, 210);
    let attributes = PlannedLink { change: Change::Attributes(old), target: None, words, says, ..new_link(1, 2) };
    take(&pool, site, &attributes).await.unwrap();
    expected.push(attributes);
    let kept: Vec<_> = tray::planned(&pool, site).await.unwrap().into_iter().map(|entry| entry.link).collect();
    assert_eq!(kept, expected);
    for target in targets(planned) {
        let again = PlannedLink { target: Some(target), words: TextSpan::new(300, 304), ..new_link(1, 2) };
        assert!(take(&pool, site, &again).await.unwrap_err().is_conflict(), "one link to each: {again:?}");
    }
}

#[sqlx::test]
async fn links_to_a_page_that_is_to_come_lead_to_it_when_it_is_there(pool: PgPool) {
    let site = small_site(&pool).await;
    let (planned, _) = planned_page::put(&pool, site, &address("to-come"), "To come").await.unwrap();
    let link = PlannedLink { target: Some(Target::PlannedPage(planned)), ..new_link(1, 2) };
    take(&pool, site, &link).await.unwrap();
    let put = [read("to-come", "<p>here</p>", &[]), read("a", "<p>a, anew</p>", &[])];
    let put = page::put_all(&pool, site, None, &put, &known_boilerplate(&pool, site).await).await.unwrap();
    let kept = tray::planned(&pool, site).await.unwrap().remove(0).link;
    assert_eq!(kept.target, Some(Target::Page(put[0].0)));
    assert!(planned_page::all(&pool, site).await.unwrap().is_empty());
}

#[sqlx::test]
async fn what_links_say_is_kept_with_their_page(pool: PgPool) {
    let site = new_site(&pool).await;
    let said = LinkAttributes {
        rel: vec!["nofollow".to_owned(), "author".to_owned()],
        target: Some("_blank".to_owned()),
        title: Some("A “title”".to_owned()),
        class: Some("button wide".to_owned()),
        hreflang: Some("fr".to_owned()),
        download: Some(String::new()),
        alt: Some("the moon".to_owned()),
    };
    let mut page = read("a", "<p>a</p>", &["b", "c"]);
    page.links[0].attributes = said.clone();
    page.links[1].attributes = LinkAttributes::default();
    page::put_all(&pool, site, None, &[page], &known_boilerplate(&pool, site).await).await.unwrap();
    let links = page::links(&pool, site, None).await.unwrap();
    assert_eq!(
        links.iter().map(|link| link.attributes.clone()).collect::<Vec<_>>(),
        [said.clone(), Default::default()]
    );
    let roads = page::roads(&pool, site, &[PageId(1)]).await.unwrap();
    assert_eq!(roads.iter().map(|road| road.marks).collect::<Vec<_>>(), [said.marks(), Default::default()]);
}

async fn migrate(pool: &PgPool, until: i64) {
    let some = MIGRATIONS.migrations.iter().filter(|migration| migration.version <= until).cloned().collect();
    let migrator = Migrator { migrations: Cow::Owned(some), ..Migrator::DEFAULT };
    migrator.run(pool).await.unwrap();
}

#[sqlx::test(migrations = false)]
async fn a_database_of_before_comes_along(pool: PgPool) {
    migrate(&pool, BEFORE).await;
    let script = "
        insert into site (name, entry, source) values ('Site', 'https://site.example/', 'web');
        insert into page (site_id, number, address, kind, title, language, words, crawled_hash, main_html, etag)
        select 1, n, 'https://site.example/' || n, 'page', 'Page ' || n, 'en', 3, decode(repeat('ab', 32), 'hex'), '', 'x'
        from generate_series(1, 4) n;
        insert into link (site_id, page_number, ordinal, href, to_address, anchor, region, is_tag)
        values (1, 1, 0, '/2', 'https://site.example/2', 'two', 'content', false);
        insert into taken_link (site_id, source_number, target_number, words_start, words_end, source_hash, anchor,
                                before_anchor, after_anchor, href, fit, state, kind, from_href, from_address)
        select 1, 1, target, at, at + 4, decode(repeat('ab', 32), 'hex'), 'words', '', '', href, 50, state, kind, old,
               'https://site.example/' || old
        from (values (0, 2, '/2', 'tray', 'put', null), (10, 3, '/3#%C3%BCnder%20100%25', 'tray', 'put', null),
                     (20, 4, '/4#bad%FFbytes', 'dropped', 'put', null), (30, 4, '4#', 'tray', 'put', null),
                     (40, 2, '/2', 'tray', 'retarget', 'old'), (50, null, '/old', 'tray', 'unlink', 'old'))
             as links (at, target, href, state, kind, old);";
    sqlx::raw_sql(script).execute(&pool).await.unwrap();
    migrate(&pool, i64::MAX).await;
    let kept = all_entries(&pool).await.unwrap();
    let place = |page, id: &str| Some(Target::Place { page: PageId(page), id: id.to_owned() });
    let expected = [
        Some(Target::Page(PageId(2))),
        place(3, "ünder 100%"),
        place(4, "bad%FFbytes"),
        Some(Target::Page(PageId(4))),
        Some(Target::Page(PageId(2))),
        None,
    ];
    assert_eq!(kept, expected);
    // The next reading looks again at each page that has links.
    let again: Vec<i32> =
        sqlx::query_scalar("select number from page where etag is null order by 1").fetch_all(&pool).await.unwrap();
    assert_eq!(again, [1]);
    // What held before holds now.
    let site = SiteId(1);
    let pair = PlannedLink { words: TextSpan::new(90, 94), ..new_link(1, 2) };
    assert!(take(&pool, site, &pair).await.unwrap_err().is_conflict());
    let itself = PlannedLink { words: TextSpan::new(90, 94), ..new_link(1, 1) };
    assert!(matches!(take(&pool, site, &itself).await, Err(StoreError::Database(_))), "no page leads to itself");
}

async fn all_entries(pool: &PgPool) -> Result<Vec<Option<Target>>, StoreError> {
    let ids: Vec<i64> = sqlx::query_scalar("select id from taken_link order by words_start").fetch_all(pool).await?;
    let ids: Vec<_> = ids.into_iter().map(strelm_core::site::ChangeId).collect();
    Ok(tray::by_id(pool, SiteId(1), &ids).await?.into_iter().map(|entry| entry.link.target).collect())
}
