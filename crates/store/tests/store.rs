//! What is kept, against a real PostgreSQL: numbers, journal order, and what the database refuses.

#![allow(clippy::unwrap_used)]

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Region, TextSpan};
use strelm_core::site::{Address, ChangeId, PageId, PageKind};
use strelm_store::journal::{self, Entry};
use strelm_store::page::{self, ReadLink, ReadPage};
use strelm_store::reading::{self, Progress, ReadingState};
use strelm_store::release::{self, PageState, ReleaseId, ReleaseState};
use strelm_store::taken::{self, NewLink, TakenState};
use strelm_store::{Seq, SiteId, passed, redirect, site};

fn address(path: &str) -> Address {
    Address::parse(&format!("https://site.example/{path}")).unwrap()
}

fn read(path: &str, source: &str, links: &[&str]) -> ReadPage {
    ReadPage {
        address: address(path),
        kind: PageKind::Page,
        title: format!("Page {path}"),
        heading: None,
        category: Some("Words".to_owned()),
        language: "en".to_owned(),
        words: 3,
        crawled_hash: ContentHash::of(source),
        main_html: source.to_owned(),
        source: Some((source.to_owned(), ContentHash::of(source))),
        links: links.iter().map(|to| link(to, false)).collect(),
    }
}

fn link(to: &str, is_tag: bool) -> ReadLink {
    ReadLink {
        href: format!("/{to}"),
        to: address(to),
        fragment: None,
        anchor: to.to_owned(),
        region: Region::Content,
        is_tag,
    }
}

async fn new_site(pool: &PgPool) -> SiteId {
    site::add(pool, "Site", &address(""), None).await.unwrap().0
}

/// A site with pages 1, 2 and 3.
async fn small_site(pool: &PgPool) -> SiteId {
    let site = new_site(pool).await;
    let pages = [read("a", "<p>a</p>", &["b"]), read("b", "<p>b</p>", &[]), read("c", "<p>c</p>", &["a", "a"])];
    page::put_all(pool, site, &pages).await.unwrap();
    site
}

fn new_link(source: u32, target: u32) -> NewLink {
    NewLink {
        source: PageId(source),
        target: PageId(target),
        words: TextSpan::new(0, 1),
        source_hash: ContentHash::of("x"),
        anchor: "words".to_owned(),
        before_anchor: "some ".to_owned(),
        after_anchor: " here".to_owned(),
        href: "/b".to_owned(),
        fit: 61.5,
    }
}

async fn begin_release(pool: &PgPool, site: SiteId) -> ReleaseId {
    let mut tx = pool.begin().await.unwrap();
    let (id, _) = release::begin(&mut tx, site).await.unwrap().unwrap();
    tx.commit().await.unwrap();
    id
}

async fn is_passed(pool: &PgPool, site: SiteId, source: u32, target: u32) -> bool {
    let pair = (PageId(source), PageId(target));
    // Another pair is asked for with it, as whoever follows the journal does.
    passed::among(pool, site, &[pair, (PageId(3), PageId(2))]).await.unwrap().contains(&pair)
}

async fn state_of(pool: &PgPool, site: SiteId, change: ChangeId) -> (TakenState, Option<String>) {
    let taken = taken::by_id(pool, site, &[change]).await.unwrap().pop().unwrap();
    (taken.state, taken.message)
}

#[sqlx::test]
async fn a_site_is_known_by_its_entry_page(pool: PgPool) {
    let (first, is_new) = site::add(&pool, "One", &address(""), None).await.unwrap();
    assert!(is_new);
    let (again, is_new) = site::add(&pool, "Two", &address(""), Some("https://site.example/mp")).await.unwrap();
    assert_eq!((again, is_new), (first, false));
    let known = site::get(&pool, first).await.unwrap().unwrap();
    assert_eq!((known.name.as_str(), known.micropub.as_deref()), ("One", Some("https://site.example/mp")));
    assert!(site::get(&pool, SiteId(first.0 + 1)).await.unwrap().is_none());
    let (other, _) = site::add(&pool, "Another", &Address::parse("https://b.example/").unwrap(), None).await.unwrap();
    let names: Vec<_> = site::all(&pool).await.unwrap().into_iter().map(|site| site.id).collect();
    assert_eq!(names, [other, first]);
}

#[sqlx::test]
async fn pages_keep_their_numbers_and_unchanged_ones_are_left_alone(pool: PgPool) {
    let site = small_site(&pool).await;
    let unchanged = page::put_all(&pool, site, &[read("b", "<p>b</p>", &[])]).await.unwrap();
    assert_eq!(unchanged, None);
    let pages = [read("d", "<p>d</p>", &[]), read("b", "<p>new</p>", &["c"])];
    let seq = page::put_all(&pool, site, &pages).await.unwrap().unwrap();
    let entries = journal::after(&pool, site, Seq(seq.0 - 1)).await.unwrap();
    assert_eq!(entries, [(seq, Entry::Pages(vec![PageId(4), PageId(2)]))]);
    let facts = page::facts(&pool, site, None).await.unwrap();
    let known: Vec<_> = facts.iter().map(|facts| (facts.id.0, facts.address.from_root())).collect();
    assert_eq!(known, [(1, "/a".into()), (2, "/b".into()), (3, "/c".into()), (4, "/d".into())]);
    let text = page::text(&pool, site, PageId(2)).await.unwrap().unwrap();
    assert_eq!(text.source, Some(("<p>new</p>".to_owned(), ContentHash::of("<p>new</p>"))));
    let links = page::links(&pool, site, Some(&[PageId(2)])).await.unwrap();
    assert_eq!(links.iter().map(|link| link.to.from_root()).collect::<Vec<_>>(), ["/c"]);
    assert_eq!(page::count(&pool, site).await.unwrap(), 4);
    let version = page::text(&pool, site, PageId(2)).await.unwrap().unwrap().source.unwrap().1;
    assert_eq!(version, ContentHash::of("<p>new</p>"));
    assert_ne!(version, ContentHash::of("<p>b</p>"));
}

#[sqlx::test]
async fn links_are_found_from_both_ends(pool: PgPool) {
    let site = small_site(&pool).await;
    let to_a = page::links_to(&pool, site, &[address("a").to_string()], 10).await.unwrap();
    assert_eq!(to_a.iter().map(|link| link.page.0).collect::<Vec<_>>(), [3, 3]);
    assert_eq!(page::links_to(&pool, site, &[address("a").to_string()], 1).await.unwrap().len(), 1);
    assert_eq!(page::links(&pool, site, None).await.unwrap().len(), 3);
}

#[sqlx::test]
async fn the_target_of_a_tag_link_is_a_term_archive(pool: PgPool) {
    let site = small_site(&pool).await;
    assert_eq!(page::mark_term_archives(&pool, site).await.unwrap(), None);
    let mut tagged = read("e", "<p>e</p>", &[]);
    tagged.links.push(link("b", true));
    page::put_all(&pool, site, &[tagged]).await.unwrap();
    assert!(page::mark_term_archives(&pool, site).await.unwrap().is_some());
    let facts = page::facts(&pool, site, Some(&[PageId(2)])).await.unwrap();
    assert_eq!(facts[0].kind, PageKind::TermArchive);
    assert_eq!(page::mark_term_archives(&pool, site).await.unwrap(), None, "once is enough");
}

#[sqlx::test]
async fn the_journal_has_no_gaps_and_no_doubles_however_many_write(pool: PgPool) {
    let site = small_site(&pool).await;
    let begin = journal::end(&pool, site).await.unwrap().unwrap();
    let writers = (0..24).map(|n| {
        let pool = pool.clone();
        tokio::spawn(async move {
            let (source, target) = (PageId(n % 3 + 1), PageId((n + 1) % 3 + 1));
            if n % 2 == 0 {
                passed::add(&pool, site, source, target, "words").await.unwrap()
            } else {
                passed::remove(&pool, site, source, target).await.unwrap()
            }
        })
    });
    let mut seqs = Vec::new();
    for writer in writers.collect::<Vec<_>>() {
        seqs.push(writer.await.unwrap().0);
    }
    seqs.sort_unstable();
    assert_eq!(seqs, (begin.0 + 1..=begin.0 + 24).collect::<Vec<_>>());
    let entries = journal::after(&pool, site, begin).await.unwrap();
    assert_eq!(entries.iter().map(|(seq, _)| seq.0).collect::<Vec<_>>(), seqs);
    assert_eq!(journal::end(&pool, SiteId(999)).await.unwrap(), None);
}

#[sqlx::test]
async fn listeners_are_told_of_what_is_committed_and_of_nothing_else(pool: PgPool) {
    let site = small_site(&pool).await;
    let mut listener = journal::Listener::start(&pool).await.unwrap();
    let mut undone = pool.begin().await.unwrap();
    reading::begin(&mut undone, site).await.unwrap();
    undone.rollback().await.unwrap();
    let seq = passed::add(&pool, site, PageId(1), PageId(2), "words").await.unwrap();
    assert_eq!(listener.next().await.unwrap(), Some((site, seq)));
}

#[sqlx::test]
async fn a_site_is_read_once_at_a_time(pool: PgPool) {
    let site = new_site(&pool).await;
    let mut tx = pool.begin().await.unwrap();
    let (first, _) = reading::begin(&mut tx, site).await.unwrap();
    tx.commit().await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(reading::begin(&mut tx, site).await.unwrap_err().is_conflict());
    drop(tx);
    let progress = Progress { known: 9, pages: 4, files: 1, failures: 2 };
    reading::set_state(&pool, site, first, ReadingState::Running, None).await.unwrap();
    reading::set_progress(&pool, site, first, progress).await.unwrap();
    let latest = reading::latest(&pool, site).await.unwrap().unwrap();
    assert_eq!((latest.state, latest.progress, latest.finished_at), (ReadingState::Running, progress, None));
    reading::set_state(&pool, site, first, ReadingState::Failed, Some("no answer")).await.unwrap();
    let latest = reading::latest(&pool, site).await.unwrap().unwrap();
    assert_eq!((latest.message.as_deref(), latest.finished_at.is_some()), (Some("no answer"), true));
    let mut tx = pool.begin().await.unwrap();
    let (second, _) = reading::begin(&mut tx, site).await.unwrap();
    tx.commit().await.unwrap();
    assert!(second > first);
    assert_eq!(reading::latest(&pool, site).await.unwrap().unwrap().id, second);
}

#[sqlx::test]
async fn a_pair_of_pages_has_one_link_in_the_tray(pool: PgPool) {
    let site = small_site(&pool).await;
    let (change, _) = taken::add(&pool, site, &new_link(1, 2)).await.unwrap();
    assert!(taken::add(&pool, site, &new_link(1, 2)).await.unwrap_err().is_conflict());
    taken::add(&pool, site, &new_link(2, 1)).await.unwrap();
    assert!(taken::add(&pool, site, &new_link(1, 1)).await.is_err(), "a page does not link to itself");
    assert!(taken::add(&pool, site, &new_link(1, 99)).await.is_err(), "a target is a page of the site");
    assert!(taken::drop_from_tray(&pool, site, change).await.unwrap().is_some());
    assert!(taken::drop_from_tray(&pool, site, change).await.unwrap().is_none());
    taken::add(&pool, site, &new_link(1, 2)).await.unwrap();
    let planned = taken::planned(&pool, site).await.unwrap();
    assert_eq!(planned.iter().map(|t| (t.link.source.0, t.link.target.0)).collect::<Vec<_>>(), [(1, 2), (2, 1)]);
    assert_eq!((planned[0].link.fit, planned[0].link.anchor.as_str()), (61.5, "words"));
}

#[sqlx::test]
async fn a_release_gathers_the_tray_and_each_page_ends_on_its_own(pool: PgPool) {
    let site = small_site(&pool).await;
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin(&mut tx, site).await.unwrap().is_none(), "an empty tray is no release");
    drop(tx);
    let (out, _) = taken::add(&pool, site, &new_link(1, 2)).await.unwrap();
    let (held, _) = taken::add(&pool, site, &new_link(2, 3)).await.unwrap();
    let id = begin_release(&pool, site).await;
    assert_eq!(state_of(&pool, site, out).await.0, TakenState::Releasing);
    assert!(taken::drop_from_tray(&pool, site, out).await.unwrap().is_none(), "what is on its way is not dropped");
    taken::add(&pool, site, &new_link(3, 1)).await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin(&mut tx, site).await.unwrap_err().is_conflict(), "one release at a time");
    drop(tx);

    release::note_versions(&pool, id, PageId(1), "<p>a</p>", "<p><a>a</a></p>").await.unwrap();
    release::finish_page(&pool, site, id, PageId(1), PageState::Out, None).await.unwrap();
    release::finish_page(&pool, site, id, PageId(2), PageState::HeldBack, Some("changed")).await.unwrap();
    release::set_state(&pool, site, id, ReleaseState::Out).await.unwrap();
    assert_eq!(state_of(&pool, site, out).await, (TakenState::Out, None));
    assert_eq!(state_of(&pool, site, held).await, (TakenState::Tray, Some("changed".to_owned())));
    let pages = release::pages(&pool, &[id]).await.unwrap();
    assert_eq!(pages.iter().map(|page| page.state).collect::<Vec<_>>(), [PageState::Out, PageState::HeldBack]);
    let versions = release::versions(&pool, id, PageId(1)).await.unwrap();
    assert_eq!(versions, Some(("<p>a</p>".to_owned(), "<p><a>a</a></p>".to_owned())));
    assert_eq!(taken::of_releases(&pool, &[id]).await.unwrap().len(), 2);

    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin_taking_back(&mut tx, site, id).await.unwrap().is_some());
    tx.commit().await.unwrap();
    release::finish_page(&pool, site, id, PageId(1), PageState::TakenBack, None).await.unwrap();
    release::set_state(&pool, site, id, ReleaseState::TakenBack).await.unwrap();
    assert_eq!(state_of(&pool, site, out).await.0, TakenState::TakenBack);
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin_taking_back(&mut tx, site, id).await.unwrap().is_none(), "it is taken back once");
    drop(tx);
    let known = release::get(&pool, site, id).await.unwrap().unwrap();
    assert!(known.finished_at.is_some() && known.taken_back_at.is_some());
    assert!(release::get(&pool, SiteId(site.0 + 1), id).await.unwrap().is_none(), "it belongs to its site");
}

#[sqlx::test]
async fn a_page_is_not_out_without_its_versions(pool: PgPool) {
    let site = small_site(&pool).await;
    taken::add(&pool, site, &new_link(1, 2)).await.unwrap();
    let id = begin_release(&pool, site).await;
    assert!(release::finish_page(&pool, site, id, PageId(1), PageState::Out, None).await.is_err());
    assert!(release::finish_page(&pool, site, id, PageId(1), PageState::HeldBack, None).await.is_err());
}

#[sqlx::test]
async fn passing_twice_is_passing_once(pool: PgPool) {
    let site = small_site(&pool).await;
    for _ in 0..2 {
        passed::add(&pool, site, PageId(1), PageId(2), "first").await.unwrap();
    }
    passed::add(&pool, site, PageId(3), PageId(1), "second").await.unwrap();
    assert_eq!(passed::all(&pool, site, None).await.unwrap().len(), 2);
    assert_eq!(passed::all(&pool, site, Some(PageId(2))).await.unwrap().len(), 1);
    assert!(is_passed(&pool, site, 1, 2).await);
    assert!(!is_passed(&pool, site, 2, 1).await, "a pair has a direction");
    passed::remove(&pool, site, PageId(1), PageId(2)).await.unwrap();
    assert!(!is_passed(&pool, site, 1, 2).await);
}

#[sqlx::test]
async fn a_redirect_has_one_target_the_latest(pool: PgPool) {
    let site = new_site(&pool).await;
    assert_eq!(redirect::put_all(&pool, site, &[]).await.unwrap(), None);
    redirect::put_all(&pool, site, &[(address("x"), address("a")), (address("y"), address("a"))]).await.unwrap();
    redirect::put_all(&pool, site, &[(address("x"), address("b")), (address("x"), address("b"))]).await.unwrap();
    let mut all = redirect::all(&pool, site).await.unwrap();
    all.sort();
    assert_eq!(all, [(address("x"), address("b")), (address("y"), address("a"))]);
}

#[sqlx::test]
async fn a_site_goes_with_all_that_is_its_own(pool: PgPool) {
    let site = small_site(&pool).await;
    taken::add(&pool, site, &new_link(1, 2)).await.unwrap();
    begin_release(&pool, site).await;
    passed::add(&pool, site, PageId(1), PageId(3), "words").await.unwrap();
    sqlx::query("delete from site where id = $1").bind(site.0).execute(&pool).await.unwrap();
    for table in ["page", "link", "taken_link", "passed_opening", "release", "release_page", "journal"] {
        let count: i64 = sqlx::query_scalar(sqlx::AssertSqlSafe(format!("select count(*) from {table}")))
            .fetch_one(&pool)
            .await
            .unwrap();
        assert_eq!(count, 0, "{table}");
    }
}
