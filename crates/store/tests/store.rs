//! What is kept, against a real PostgreSQL: numbers, journal order, and what the database refuses.

#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use sqlx::PgPool;
use strelm_core::document::ContentHash;
use strelm_core::language::Language;
use strelm_core::limits::{LinkLimits, SiteLimits};
use strelm_core::site::{Absence, Address, BlockKey, PageId, PageKind, RoadRules, RoadsCount, Validators};
use strelm_store::journal::{self, Entry};
use strelm_store::lock::{Work, WorkLock};
use strelm_store::looked::{self, LookedPage};
use strelm_store::page::{self, Gone, Put, ReadBlock, ReadPage};
use strelm_store::reading::{self, Outcome, Progress, ReadAddress, ReadingState};
use strelm_store::redirect;
use strelm_store::site::{Settings, SiteSource, Way};
use strelm_store::{Seq, SiteId, site, site_limits, tray};

use common::*;

#[sqlx::test]
async fn a_site_is_known_by_its_entry_page(pool: PgPool) {
    let (first, is_new) = site::add(&pool, &address(""), &settings("One", None)).await.unwrap();
    assert!(is_new);
    let (again, is_new) = site::add(&pool, &address(""), &settings("Two", None)).await.unwrap();
    assert_eq!((again, is_new), (first, false));
    let known = site::get(&pool, first).await.unwrap().unwrap();
    assert_eq!(known.settings, settings("One", None));
    assert_eq!(known.way(), Way::HandedOver);
    assert!(site::get(&pool, SiteId(first.0 + 1)).await.unwrap().is_none());
    let folder = Settings::new("Another", SiteSource::Folder { path: "/srv/x".to_owned(), writes: true });
    let (other, _) = site::add(&pool, &Address::parse("https://b.example/").unwrap(), &folder).await.unwrap();
    assert_eq!(site::get(&pool, other).await.unwrap().unwrap().way(), Way::Written);
    let names: Vec<_> = site::all(&pool).await.unwrap().into_iter().map(|site| site.id).collect();
    assert_eq!(names, [other, first]);
}

#[sqlx::test]
async fn settings_are_changed_whole_and_told_in_the_journal(pool: PgPool) {
    let site = small_site(&pool).await;
    let changed = Settings {
        entries: vec![address("news")],
        roads: RoadRules { from: RoadsCount::Content, nofollow: false },
        most_pages: 7,
        delay_ms: 250,
        ..settings("New", Some("https://site.example/mp"))
    };
    let begin = journal::end(&pool, site).await.unwrap().unwrap();
    site::set(&pool, site, &changed).await.unwrap().unwrap();
    assert_eq!(site::get(&pool, site).await.unwrap().unwrap().settings, changed);
    assert_eq!(journal::after(&pool, site, begin).await.unwrap().unwrap()[0].1, Entry::Site);
    let versions = page::all_versions(&pool, site).await.unwrap();
    assert!(versions.iter().all(|version| version.validators == Validators::default()), "all are looked at again");
    assert_eq!(site::set(&pool, SiteId(site.0 + 1), &changed).await.unwrap(), None);
    assert!(site::set(&pool, site, &Settings { most_pages: 0, ..changed }).await.is_err(), "a limit is a limit");
}

#[sqlx::test]
async fn pages_keep_their_numbers_and_unchanged_ones_are_left_alone(pool: PgPool) {
    let site = small_site(&pool).await;
    let begin = journal::end(&pool, site).await.unwrap().unwrap();
    let unchanged =
        page::put_all(&pool, site, None, &[read("b", "<p>b</p>", &[])], &known_boilerplate(&pool, site).await)
            .await
            .unwrap();
    assert_eq!(unchanged, [(PageId(2), Put::Unchanged)]);
    let pages = [read("d", "<p>d</p>", &[]), read("b", "<p>new</p>", &["c"])];
    let put = page::put_all(&pool, site, None, &pages, &known_boilerplate(&pool, site).await).await.unwrap();
    assert_eq!(put, [(PageId(4), Put::New), (PageId(2), Put::Changed)]);
    let entries = journal::after(&pool, site, begin).await.unwrap().unwrap();
    assert_eq!(entries, [(Seq(begin.0 + 1), Entry::Pages(vec![PageId(4), PageId(2)]))]);
    let facts = page::facts(&pool, site, None).await.unwrap();
    let known: Vec<_> = facts.iter().map(|page| (page.facts.id.0, page.facts.address.from_root())).collect();
    assert_eq!(known, [(1, "/a".into()), (2, "/b".into()), (3, "/c".into()), (4, "/d".into())]);
    let text = page::text(&pool, site, PageId(2)).await.unwrap().unwrap();
    assert_eq!(text.source, Some(source_of("<p>new</p>")));
    assert_eq!((text.ids, text.says), (read("", "", &[]).ids, read("", "", &[]).says));
    let links = page::links(&pool, site, Some(&[PageId(2)])).await.unwrap();
    assert_eq!(links.iter().map(|link| link.to.from_root()).collect::<Vec<_>>(), ["/c"]);
    assert_eq!(page::count(&pool, site).await.unwrap(), 4);
}

#[sqlx::test]
async fn a_page_that_does_not_tell_its_language_has_that_of_the_entry_page(pool: PgPool) {
    let site = new_site(&pool).await;
    let written_in = |path: &str, language: &str| ReadPage { language: language.to_owned(), ..read(path, path, &[]) };
    let languages = async || -> Vec<Language> {
        let facts = page::facts(&pool, site, None).await.unwrap();
        facts.iter().map(|page| page.facts.language).collect()
    };
    page::put_all(
        &pool,
        site,
        None,
        &[written_in("a", "und"), written_in("b", "fr")],
        &known_boilerplate(&pool, site).await,
    )
    .await
    .unwrap();
    assert_eq!(languages().await, [Language::Other, Language::French], "while nobody knows");
    page::put_all(
        &pool,
        site,
        None,
        &[written_in("", "de"), written_in("c", "mis")],
        &known_boilerplate(&pool, site).await,
    )
    .await
    .unwrap();
    assert_eq!(languages().await, [Language::German, Language::French, Language::German, Language::Other]);
}

#[sqlx::test]
async fn a_page_that_is_gone_keeps_its_number_and_comes_back(pool: PgPool) {
    let site = small_site(&pool).await;
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    let gone = [(PageId(2), Gone::Vanished), (PageId(3), Gone::Moved)];
    assert!(page::mark_gone(&pool, site, &gone).await.unwrap().is_some());
    assert_eq!(page::mark_gone(&pool, site, &gone).await.unwrap(), None, "once is enough");
    let facts = page::facts(&pool, site, None).await.unwrap();
    let known: Vec<_> = facts.iter().map(|page| page.gone).collect();
    assert_eq!(known, [None, Some(Gone::Vanished), Some(Gone::Moved)]);
    assert!(page::text(&pool, site, PageId(2)).await.unwrap().is_none());
    assert_eq!(tray::planned(&pool, site).await.unwrap().len(), 1, "what was decided stays");
    let put = page::put_all(&pool, site, None, &[read("b", "<p>b</p>", &[])], &known_boilerplate(&pool, site).await)
        .await
        .unwrap();
    assert_eq!(put, [(PageId(2), Put::New)]);
    assert_eq!(page::facts(&pool, site, Some(&[PageId(2)])).await.unwrap()[0].gone, None);
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
    page::put_all(&pool, site, None, &[tagged], &known_boilerplate(&pool, site).await).await.unwrap();
    assert!(page::mark_term_archives(&pool, site).await.unwrap().is_some());
    let facts = page::facts(&pool, site, Some(&[PageId(2)])).await.unwrap();
    assert_eq!(facts[0].facts.kind, PageKind::TermArchive);
    assert_eq!(page::mark_term_archives(&pool, site).await.unwrap(), None, "once is enough");
}

#[sqlx::test]
async fn the_journal_has_no_gaps_and_no_doubles_however_many_write(pool: PgPool) {
    let site = small_site(&pool).await;
    let begin = journal::end(&pool, site).await.unwrap().unwrap();
    let writers = (0..24i16).map(|n| {
        let pool = pool.clone();
        let dead = [(address(&format!("x{n}")), Absence::Status(404))];
        tokio::spawn(async move { redirect::put_dead(&pool, site, &dead, &[]).await.unwrap().unwrap() })
    });
    let mut seqs = Vec::new();
    for writer in writers.collect::<Vec<_>>() {
        seqs.push(writer.await.unwrap().0);
    }
    seqs.sort_unstable();
    assert_eq!(seqs, (begin.0 + 1..=begin.0 + 24).collect::<Vec<_>>());
    let entries = journal::after(&pool, site, begin).await.unwrap().unwrap();
    assert_eq!(entries.iter().map(|(seq, _)| seq.0).collect::<Vec<_>>(), seqs);
    assert_eq!(journal::end(&pool, SiteId(999)).await.unwrap(), None);
    // Whoever is too far behind is told so.
    sqlx::query("delete from journal where site_id = $1 and seq <= $2")
        .bind(site.0)
        .bind(begin.0 + 2)
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(journal::after(&pool, site, begin).await.unwrap(), None);
    assert_eq!(journal::after(&pool, site, Seq(begin.0 + 2)).await.unwrap().unwrap().len(), 22);
}

#[sqlx::test]
async fn listeners_are_told_of_what_is_committed_and_of_nothing_else(pool: PgPool) {
    let site = small_site(&pool).await;
    let mut listener = journal::Listener::start(&pool).await.unwrap();
    let mut undone = pool.begin().await.unwrap();
    reading::begin(&mut undone, site).await.unwrap();
    undone.rollback().await.unwrap();
    pass(&pool, site, 1, 2).await;
    let seq = journal::end(&pool, site).await.unwrap().unwrap();
    let told = journal::Growth { site, seq, kind: Some("passed") };
    assert_eq!(listener.next().await.unwrap(), Some(told));
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
    let progress = Progress { known: 9, pages: 4, files: 1, failures: 2, vanished: 1, ..Progress::default() };
    assert_eq!(reading::start_run(&pool, site, first).await.unwrap(), Some(Progress::default()));
    let state = reading::set_progress(&pool, site, first, progress, None).await.unwrap();
    assert_eq!(state, ReadingState::Running);
    let latest = reading::latest(&pool, site).await.unwrap().unwrap();
    assert_eq!((latest.state, latest.progress, latest.finished_at), (ReadingState::Running, progress, None));
    reading::end_run(&pool, site, first, ReadingState::Failed, Some("no answer")).await.unwrap();
    let latest = reading::latest(&pool, site).await.unwrap().unwrap();
    assert_eq!((latest.message.as_deref(), latest.finished_at.is_some()), (Some("no answer"), true));
    let mut tx = pool.begin().await.unwrap();
    let (second, _) = reading::begin(&mut tx, site).await.unwrap();
    tx.commit().await.unwrap();
    assert!(second > first);
    assert_eq!(reading::latest(&pool, site).await.unwrap().unwrap().id, second);
}

#[sqlx::test]
async fn a_reading_stops_when_asked_and_goes_on_with_what_waits(pool: PgPool) {
    let site = new_site(&pool).await;
    assert_eq!(reading::ask_to_stop(&pool, site).await.unwrap(), None, "there is nothing to stop");
    let mut tx = pool.begin().await.unwrap();
    let (id, _) = reading::begin(&mut tx, site).await.unwrap();
    assert!(reading::go_on(&mut tx, site).await.unwrap().is_none(), "it is under way");
    tx.commit().await.unwrap();
    reading::start_run(&pool, site, id).await.unwrap().unwrap();
    reading::add_waiting(&pool, id, &[address("a"), address("b"), address("c")]).await.unwrap();
    reading::add_waiting(&pool, id, &[address("b")]).await.unwrap();
    let read = |path: &str, outcome, note: Option<&str>| ReadAddress {
        address: address(path),
        outcome,
        note: note.map(str::to_owned),
    };
    let outcomes =
        [read("b", Outcome::Failed, Some("no")), read("b", Outcome::New, None), read("x", Outcome::Moved, Some("to"))];
    reading::note_outcomes(&pool, id, &outcomes).await.unwrap();
    let (waiting, done) = reading::addresses(&pool, id).await.unwrap();
    assert_eq!((waiting, done), (vec![address("a"), address("c")], vec![address("b"), address("x")]));
    let told = reading::told(&pool, site, id, &[Outcome::New, Outcome::Moved], 10).await.unwrap();
    assert_eq!(told, outcomes[1..]);
    assert!(reading::told(&pool, SiteId(site.0 + 1), id, &[Outcome::New], 10).await.unwrap().is_empty());

    assert!(reading::ask_to_stop(&pool, site).await.unwrap().is_some());
    let state = reading::set_progress(&pool, site, id, Progress::default(), None).await.unwrap();
    assert_eq!(state, ReadingState::Stopping);
    reading::end_run(&pool, site, id, ReadingState::Stopped, None).await.unwrap();
    assert_eq!(reading::start_run(&pool, site, id).await.unwrap(), None, "it was stopped");
    let mut tx = pool.begin().await.unwrap();
    assert_eq!(reading::go_on(&mut tx, site).await.unwrap().unwrap().0, id);
    tx.commit().await.unwrap();
    assert!(reading::start_run(&pool, site, id).await.unwrap().is_some());
    let mut tx = pool.begin().await.unwrap();
    assert!(reading::overdue(&mut tx, 60.0).await.unwrap().is_empty());
    assert_eq!(reading::overdue(&mut tx, 0.0).await.unwrap(), [(site, id)]);
}

#[sqlx::test]
async fn work_is_done_by_one_and_free_again_when_its_connection_ends(pool: PgPool) {
    let mut held = WorkLock::take(&pool, Work::Release(7)).await.unwrap().unwrap();
    assert!(WorkLock::take(&pool, Work::Release(7)).await.unwrap().is_none());
    assert!(WorkLock::take(&pool, Work::Reading(7)).await.unwrap().is_some(), "that is other work");
    assert!(held.is_held().await);
    sqlx::query("select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory'")
        .execute(&pool)
        .await
        .unwrap();
    assert!(!held.is_held().await);
    for _ in 0..100 {
        if WorkLock::take(&pool, Work::Release(7)).await.unwrap().is_some() {
            return;
        }
        tokio::time::sleep(std::time::Duration::from_millis(10)).await;
    }
    panic!("the lock is not let go");
}

#[sqlx::test]
async fn limits_of_a_site_are_kept_and_told(pool: PgPool) {
    let site = small_site(&pool).await;
    assert_eq!(site_limits::get(&pool, site).await.unwrap(), Some(SiteLimits::default()));
    let limits = LinkLimits { per_sentence: 1, words_per_link: 50, first_words_free: 40, ..LinkLimits::default() };
    let limits = SiteLimits {
        links: limits,
        never_words: vec!["click here".to_owned()],
        left_out: vec!["Legal".to_owned()],
        links_back: false,
        oldest_months: Some(18),
        follows_habits: false,
    };
    let seq = site_limits::set(&pool, site, &limits).await.unwrap().unwrap();
    assert_eq!(site_limits::get(&pool, site).await.unwrap(), Some(limits.clone()));
    assert_eq!(journal::end(&pool, site).await.unwrap(), Some(seq));
    assert_eq!(site_limits::set(&pool, SiteId(999), &limits).await.unwrap(), None);
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
    // There is nothing at one any more, and a page at the other.
    assert!(
        redirect::put_dead(&pool, site, &[(address("x"), Absence::Status(410))], &[address("y")])
            .await
            .unwrap()
            .is_some()
    );
    assert!(redirect::all(&pool, site).await.unwrap().is_empty());
    assert_eq!(redirect::dead(&pool, site).await.unwrap(), [(address("x"), Absence::Status(410))]);
    assert_eq!(
        redirect::put_dead(&pool, site, &[(address("x"), Absence::Status(410))], &[address("y")]).await.unwrap(),
        None
    );
    redirect::put_dead(&pool, site, &[], &[address("x")]).await.unwrap();
    assert!(redirect::dead(&pool, site).await.unwrap().is_empty());
}

#[sqlx::test]
async fn a_site_goes_with_all_that_is_its_own(pool: PgPool) {
    let site = small_site(&pool).await;
    let other = Address::parse("https://b.example/").unwrap();
    let (stays, _) = site::add(&pool, &other, &settings("Other", None)).await.unwrap();
    page::put_all(&pool, stays, None, &[read("a", "<p>a</p>", &["b"])], &known_boilerplate(&pool, stays).await)
        .await
        .unwrap();
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    begin_release(&pool, site).await;
    pass(&pool, site, 1, 3).await;
    redirect::put_dead(&pool, site, &[(address("x"), Absence::Status(404))], &[]).await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    let (reading, _) = reading::begin(&mut tx, site).await.unwrap();
    tx.commit().await.unwrap();
    reading::add_waiting(&pool, reading, &[address("a")]).await.unwrap();
    assert!(site::delete(&pool, site).await.unwrap());
    assert!(!site::delete(&pool, site).await.unwrap());
    let tables = [
        ("page", 1),
        ("link", 1),
        ("taken_link", 0),
        ("passed_opening", 0),
        ("decision", 0),
        ("release", 0),
        ("release_page", 0),
        ("reading", 0),
        ("reading_address", 0),
        ("dead_address", 0),
        ("journal", 1),
    ];
    for (table, left) in tables {
        let count: i64 = sqlx::query_scalar(sqlx::AssertSqlSafe(format!("select count(*) from {table}")))
            .fetch_one(&pool)
            .await
            .unwrap();
        assert_eq!(count, left, "{table}");
    }
}

#[sqlx::test(migrations = "./migrations")]
async fn rows_of_a_page_need_it_and_go_with_it(pool: PgPool) {
    let site = new_site(&pool).await;
    let block = ReadBlock { key: BlockKey::from_i64(7), words: None };
    let page = ReadPage { blocks: vec![block], ..read("a", "A", &["b", "c"]) };
    let (number, _) =
        page::put_all(&pool, site, None, std::slice::from_ref(&page), &known_boilerplate(&pool, site).await)
            .await
            .unwrap()[0];
    let facts = page::facts(&pool, site, None).await.unwrap().remove(0).facts;
    assert_eq!(facts.standing, page.standing);
    let insert = "insert into page_block (site_id, page_number, key) values ($1, $2, 8)";
    let put = |number: i32| sqlx::query(insert).bind(site.0).bind(number).execute(&pool);
    put(1).await.unwrap();
    let refused = put(2).await.unwrap_err();
    assert_eq!(refused.as_database_error().unwrap().code().as_deref(), Some("23503"), "{refused}");
    sqlx::query("delete from page where site_id = $1 and number = $2")
        .bind(site.0)
        .bind(1)
        .execute(&pool)
        .await
        .unwrap();
    let left = "select (select count(*) from link) + (select count(*) from page_block)";
    assert_eq!(sqlx::query_scalar::<_, i64>(left).fetch_one(&pool).await.unwrap(), 0);
    assert_eq!(number, PageId(1));
}

#[sqlx::test]
async fn what_was_found_on_pages_is_kept_by_judge_and_goes_with_the_site(pool: PgPool) {
    let site = small_site(&pool).await;
    let looked = |page: u32, text: &str, found: &[u8]| LookedPage {
        page: PageId(page),
        version: ContentHash::of(text),
        found: found.to_vec(),
    };
    let (one, two) = (looked(1, "<p>a</p>", &[1, 0, 255]), looked(2, "<p>b</p>", &[]));
    looked::put(&pool, site, b"judge", &[one.clone(), two.clone(), looked(99, "gone", &[7])]).await.unwrap();
    let of = async |judge: &[u8], pages: &[u32]| {
        let pages: Vec<_> = pages.iter().copied().map(PageId).collect();
        let mut found = looked::of(&pool, site, judge, &pages).await.unwrap();
        found.sort_by_key(|looked| looked.page);
        found
    };
    assert_eq!(of(b"judge", &[1, 2, 3, 99]).await, [one, two.clone()]);
    assert_eq!(of(b"judge", &[2, 3]).await, std::slice::from_ref(&two));
    assert_eq!(of(b"another", &[1, 2]).await, []);
    let anew = looked(1, "<p>other</p>", &[9]);
    looked::put(&pool, site, b"another", std::slice::from_ref(&anew)).await.unwrap();
    assert_eq!(of(b"another", &[1, 2]).await, [anew]);
    assert_eq!(of(b"judge", &[1, 2]).await, [two]);
    sqlx::query("delete from site").execute(&pool).await.unwrap();
    assert_eq!(of(b"another", &[1, 2]).await, []);
}
