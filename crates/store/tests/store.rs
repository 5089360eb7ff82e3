//! What is kept, against a real PostgreSQL: numbers, journal order, and what the database refuses.

#![allow(clippy::unwrap_used, clippy::panic)]

use std::collections::HashSet;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Format, Region, TextSpan};
use strelm_core::limits::{HouseRules, LinkLimits};
use strelm_core::site::{Address, BlockKey, ChangeId, LanguageVersion, PageId, PageKind, Standing};
use strelm_store::decision::{self, Decision, Made, Maker, Wish};
use strelm_store::journal::{self, Entry};
use strelm_store::lock::{Work, WorkLock};
use strelm_store::page::{self, Gone, Put, ReadBlock, ReadLink, ReadPage, Says, Source, Validators};
use strelm_store::passed::{Passed, Place};
use strelm_store::reading::{self, Outcome, Progress, ReadAddress, ReadingState};
use strelm_store::redirect::{self, Absence};
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage, ReleaseState};
use strelm_store::site::{Settings, Source as SiteSource};
use strelm_store::taken::{self, Change, Ended, NewLink, OwnWording, TakenState};
use strelm_store::{Seq, SiteId, StoreError, furniture, house_rules, lesson, passed, site};
use uuid::Uuid;

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
        source: Some(source_of(source)),
        blocks: Vec::new(),
        links: links.iter().map(|to| link(to, false)).collect(),
        ids: vec!["top \"quoted\"".to_owned(), "ünder".to_owned()],
        validators: Validators { etag: Some("\"1\"".to_owned()), last_modified: None },
        says: Says { published: Some("2026".to_owned()), description: None, tags: vec!["a, b".to_owned()] },
        standing: Standing {
            noindex: true,
            canonical: Some(address("canonical")),
            versions: vec![LanguageVersion { language: "fr".to_owned(), address: address("fr") }],
        },
    }
}

fn source_of(text: &str) -> Source {
    Source { text: text.to_owned(), format: Format::Html, hash: ContentHash::of(text) }
}

fn link(to: &str, is_tag: bool) -> ReadLink {
    ReadLink {
        href: format!("/{to}"),
        to: address(to),
        fragment: None,
        anchor: to.to_owned(),
        region: Region::Content,
        block: None,
        is_tag,
    }
}

fn settings(name: &str, micropub: Option<&str>) -> Settings {
    Settings::new(name, SiteSource::Web { micropub: micropub.map(str::to_owned) })
}

fn maker(hand: u128) -> Maker {
    Maker { hand: Uuid::from_u128(hand), key: Uuid::new_v4() }
}

async fn take(pool: &PgPool, site: SiteId, link: &NewLink) -> Result<ChangeId, StoreError> {
    match decision::make(pool, site, maker(1), &Wish::Take(std::slice::from_ref(link), &[])).await? {
        Made::Done(decision) => Ok(decision.changes[0]),
        Made::TooLate => unreachable!("a link is taken or in conflict"),
    }
}

async fn decide(pool: &PgPool, site: SiteId, wish: Wish<'_>) -> Made {
    decision::make(pool, site, maker(1), &wish).await.unwrap()
}

async fn pass(pool: &PgPool, site: SiteId, source: u32, target: u32) -> Made {
    decide(pool, site, Wish::Pass(&pair(source, target), &[])).await
}

fn pair(source: u32, target: u32) -> Passed {
    Passed { source: Some(PageId(source)), target: PageId(target), anchor: "words".to_owned(), place: None }
}

async fn bring_back(pool: &PgPool, site: SiteId, source: u32, target: u32) -> Made {
    decide(pool, site, Wish::BringBack(&pair(source, target))).await
}

fn done(made: Made) -> Decision {
    match made {
        Made::Done(decision) => decision,
        Made::TooLate => panic!("too late"),
    }
}

async fn new_site(pool: &PgPool) -> SiteId {
    site::add(pool, &address(""), &settings("Site", None)).await.unwrap().0
}

/// A site with pages 1, 2 and 3.
async fn small_site(pool: &PgPool) -> SiteId {
    let site = new_site(pool).await;
    let pages = [read("a", "<p>a</p>", &["b"]), read("b", "<p>b</p>", &[]), read("c", "<p>c</p>", &["a", "a"])];
    page::put_all(pool, site, None, &pages).await.unwrap();
    site
}

fn new_link(source: u32, target: u32) -> NewLink {
    NewLink {
        change: Change::Put,
        source: PageId(source),
        target: Some(PageId(target)),
        words: TextSpan::new(0, 1),
        source_hash: ContentHash::of("x"),
        anchor: "words".to_owned(),
        before_anchor: "some ".to_owned(),
        after_anchor: " here".to_owned(),
        href: "/b".to_owned(),
        fit: Some(61.5),
    }
}

async fn begin_release(pool: &PgPool, site: SiteId) -> ReleaseId {
    let mut tx = pool.begin().await.unwrap();
    let (id, _) = release::begin(&mut tx, site).await.unwrap().unwrap();
    tx.commit().await.unwrap();
    id
}

async fn finish(
    pool: &PgPool,
    site: SiteId,
    release: ReleaseId,
    page: u32,
    state: PageState,
    message: Option<&str>,
    links: &[(ChangeId, TakenState)],
) -> Result<Seq, StoreError> {
    let message = message.map(str::to_owned);
    let ended: Vec<_> = links
        .iter()
        .map(|(change, state)| Ended { change: *change, state: *state, message: message.clone() })
        .collect();
    release::finish_page(pool, site, &ReleasePage { release, page: PageId(page), state, message }, &ended).await
}

async fn is_passed(pool: &PgPool, site: SiteId, source: u32, target: u32) -> bool {
    passed::to(pool, site, Some(&[PageId(target)])).await.unwrap().contains(&pair(source, target))
}

async fn state_of(pool: &PgPool, site: SiteId, change: ChangeId) -> (TakenState, Option<String>) {
    let taken = taken::by_id(pool, site, &[change]).await.unwrap().pop().unwrap();
    (taken.state, taken.message)
}

#[sqlx::test]
async fn a_site_is_known_by_its_entry_page(pool: PgPool) {
    let (first, is_new) = site::add(&pool, &address(""), &settings("One", None)).await.unwrap();
    assert!(is_new);
    let (again, is_new) = site::add(&pool, &address(""), &settings("Two", None)).await.unwrap();
    assert_eq!((again, is_new), (first, false));
    let known = site::get(&pool, first).await.unwrap().unwrap();
    assert_eq!(known.settings, settings("One", None));
    assert!(!known.is_editable());
    assert!(site::get(&pool, SiteId(first.0 + 1)).await.unwrap().is_none());
    let folder = Settings::new("Another", SiteSource::Folder { path: "/srv/x".to_owned() });
    let (other, _) = site::add(&pool, &Address::parse("https://b.example/").unwrap(), &folder).await.unwrap();
    assert!(site::get(&pool, other).await.unwrap().unwrap().is_editable());
    let names: Vec<_> = site::all(&pool).await.unwrap().into_iter().map(|site| site.id).collect();
    assert_eq!(names, [other, first]);
}

#[sqlx::test]
async fn settings_are_changed_whole_and_told_in_the_journal(pool: PgPool) {
    let site = small_site(&pool).await;
    let changed = Settings {
        entries: vec![address("news")],
        roads: strelm_core::site::RoadsCount::Content,
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
    let unchanged = page::put_all(&pool, site, None, &[read("b", "<p>b</p>", &[])]).await.unwrap();
    assert_eq!(unchanged, [(PageId(2), Put::Unchanged)]);
    let pages = [read("d", "<p>d</p>", &[]), read("b", "<p>new</p>", &["c"])];
    let put = page::put_all(&pool, site, None, &pages).await.unwrap();
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
    assert_eq!(taken::planned(&pool, site).await.unwrap().len(), 1, "what was decided stays");
    let put = page::put_all(&pool, site, None, &[read("b", "<p>b</p>", &[])]).await.unwrap();
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
    page::put_all(&pool, site, None, &[tagged]).await.unwrap();
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
async fn a_decision_that_is_sent_twice_is_made_once(pool: PgPool) {
    let site = small_site(&pool).await;
    let maker = maker(1);
    let first = decision::make(&pool, site, maker, &Wish::Take(&[new_link(1, 2)], &[])).await.unwrap();
    let second = decision::make(&pool, site, maker, &Wish::Take(&[new_link(1, 2)], &[])).await.unwrap();
    assert_eq!(first, second);
    assert_eq!(taken::planned(&pool, site).await.unwrap().len(), 1);
    let undo = Maker { key: Uuid::new_v4(), ..maker };
    for _ in 0..2 {
        let undone = decision::undo(&pool, site, undo).await.unwrap();
        assert_eq!(undone, Some(done(first.clone())));
    }
    assert!(taken::planned(&pool, site).await.unwrap().is_empty());
}

#[sqlx::test]
async fn each_hand_undoes_its_own_decisions_and_does_them_again(pool: PgPool) {
    let site = small_site(&pool).await;
    let (mine, yours) = (|| maker(1), || maker(2));
    let change = take(&pool, site, &new_link(1, 2)).await.unwrap();
    pass(&pool, site, 2, 3).await;
    decision::make(&pool, site, yours(), &Wish::Take(&[new_link(3, 1)], &[])).await.unwrap();
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert_eq!(state_of(&pool, site, change).await.0, TakenState::Dropped);

    let kinds = |decision: Option<Decision>| decision.map(|decision| decision.kind.as_str());
    assert_eq!(kinds(decision::undo(&pool, site, mine()).await.unwrap()), Some("drop"));
    assert_eq!(state_of(&pool, site, change).await.0, TakenState::Tray);
    assert_eq!(kinds(decision::undo(&pool, site, mine()).await.unwrap()), Some("pass"));
    assert!(!is_passed(&pool, site, 2, 3).await);
    assert_eq!(kinds(decision::undo(&pool, site, mine()).await.unwrap()), Some("take"));
    assert_eq!(decision::undo(&pool, site, mine()).await.unwrap(), None, "the other's link stays");
    assert_eq!(taken::planned(&pool, site).await.unwrap().len(), 1);

    for kind in ["take", "pass", "drop"] {
        assert_eq!(kinds(decision::redo(&pool, site, mine()).await.unwrap()), Some(kind));
    }
    assert_eq!(decision::redo(&pool, site, mine()).await.unwrap(), None);
    assert!(is_passed(&pool, site, 2, 3).await);
    assert_eq!(state_of(&pool, site, change).await.0, TakenState::Dropped);
    // Something new ends what could be done again.
    decision::undo(&pool, site, mine()).await.unwrap();
    done(bring_back(&pool, site, 2, 3).await);
    assert_eq!(decision::redo(&pool, site, mine()).await.unwrap(), None);
}

#[sqlx::test]
async fn what_went_out_is_not_undone_and_what_others_took_is_not_overrun(pool: PgPool) {
    let site = small_site(&pool).await;
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    begin_release(&pool, site).await;
    assert_eq!(decision::undo(&pool, site, maker(1)).await.unwrap(), None, "it is on its way");
    let dropped = take(&pool, site, &new_link(2, 3)).await.unwrap();
    done(decide(&pool, site, Wish::Drop(&[dropped])).await);
    decision::make(&pool, site, maker(2), &Wish::Take(&[new_link(2, 3)], &[])).await.unwrap();
    assert!(decision::undo(&pool, site, maker(1)).await.unwrap_err().is_conflict());
    assert!(matches!(decide(&pool, site, Wish::Drop(&[dropped])).await, Made::TooLate));
}

#[sqlx::test]
async fn a_pair_of_pages_has_one_link_in_the_tray(pool: PgPool) {
    let site = small_site(&pool).await;
    let change = take(&pool, site, &new_link(1, 2)).await.unwrap();
    assert!(take(&pool, site, &new_link(1, 2)).await.unwrap_err().is_conflict());
    let same_words = take(&pool, site, &new_link(1, 3)).await.unwrap_err();
    assert!(same_words.is_about_the_same_words(), "{same_words}");
    let beside = NewLink { words: TextSpan::new(1, 4), ..new_link(1, 3) };
    take(&pool, site, &beside).await.unwrap();
    take(&pool, site, &new_link(2, 1)).await.unwrap();
    assert!(take(&pool, site, &new_link(1, 1)).await.is_err(), "a page does not link to itself");
    assert!(take(&pool, site, &new_link(1, 99)).await.is_err(), "a target is a page of the site");
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert!(matches!(decide(&pool, site, Wish::Drop(&[change])).await, Made::TooLate));
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    let planned = taken::planned(&pool, site).await.unwrap();
    let pairs: Vec<_> = planned.iter().map(|t| (t.link.source.0, t.link.target.unwrap().0)).collect();
    assert_eq!(pairs, [(1, 2), (1, 3), (2, 1)]);
    assert_eq!((planned[0].link.fit, planned[0].link.anchor.as_str()), (Some(61.5), "words"));
}

#[sqlx::test]
async fn a_release_gathers_the_tray_and_each_page_ends_on_its_own(pool: PgPool) {
    let site = small_site(&pool).await;
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin(&mut tx, site).await.unwrap().is_none(), "an empty tray is no release");
    drop(tx);
    let out = take(&pool, site, &new_link(1, 2)).await.unwrap();
    let held = take(&pool, site, &new_link(2, 3)).await.unwrap();
    let id = begin_release(&pool, site).await;
    assert_eq!(state_of(&pool, site, out).await.0, TakenState::Releasing);
    assert!(
        matches!(decide(&pool, site, Wish::Drop(&[out])).await, Made::TooLate),
        "what is on its way is not dropped"
    );
    take(&pool, site, &new_link(3, 1)).await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin(&mut tx, site).await.unwrap_err().is_conflict(), "one release at a time");
    drop(tx);

    release::note_versions(&pool, id, PageId(1), "<p>a</p>", "<p><a>a</a></p>").await.unwrap();
    finish(&pool, site, id, 1, PageState::Out, None, &[(out, TakenState::Out)]).await.unwrap();
    finish(&pool, site, id, 2, PageState::HeldBack, Some("changed"), &[(held, TakenState::Tray)]).await.unwrap();
    release::set_state(&pool, site, id, ReleaseState::Out, None).await.unwrap();
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
    finish(&pool, site, id, 1, PageState::TakenBack, None, &[(out, TakenState::TakenBack)]).await.unwrap();
    release::set_state(&pool, site, id, ReleaseState::TakenBack, None).await.unwrap();
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
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    let id = begin_release(&pool, site).await;
    assert!(finish(&pool, site, id, 1, PageState::Out, None, &[]).await.is_err());
    assert!(finish(&pool, site, id, 1, PageState::HeldBack, None, &[]).await.is_err());
}

#[sqlx::test]
async fn an_interrupted_release_goes_on_or_gives_the_rest_back(pool: PgPool) {
    let site = small_site(&pool).await;
    let out = take(&pool, site, &new_link(1, 2)).await.unwrap();
    let rest = take(&pool, site, &new_link(2, 3)).await.unwrap();
    let id = begin_release(&pool, site).await;
    release::note_versions(&pool, id, PageId(1), "a", "b").await.unwrap();
    finish(&pool, site, id, 1, PageState::Out, None, &[(out, TakenState::Out)]).await.unwrap();
    assert_eq!(release::give_up(&pool, site, id).await.unwrap(), None, "it is not interrupted");
    release::set_state(&pool, site, id, ReleaseState::Interrupted, Some("no answer")).await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(release::overdue(&mut tx, 0.0).await.unwrap().is_empty(), "it waits for a decision");
    assert!(release::go_on(&mut tx, site, id).await.unwrap().is_some());
    tx.commit().await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert_eq!(release::overdue(&mut tx, 0.0).await.unwrap(), [(site, id, false)]);
    drop(tx);
    release::set_state(&pool, site, id, ReleaseState::Interrupted, Some("no answer")).await.unwrap();
    assert!(release::give_up(&pool, site, id).await.unwrap().is_some());
    assert_eq!(state_of(&pool, site, out).await.0, TakenState::Out);
    assert_eq!(state_of(&pool, site, rest).await, (TakenState::Tray, None));
    let known = release::get(&pool, site, id).await.unwrap().unwrap();
    assert_eq!((known.state, known.message), (ReleaseState::Out, None));
}

#[sqlx::test]
async fn passing_twice_is_passing_once(pool: PgPool) {
    let site = small_site(&pool).await;
    done(pass(&pool, site, 1, 2).await);
    assert!(matches!(pass(&pool, site, 1, 2).await, Made::TooLate));
    done(pass(&pool, site, 3, 1).await);
    assert_eq!(passed::to(&pool, site, None).await.unwrap().len(), 2);
    assert_eq!(passed::of_page(&pool, site, PageId(2)).await.unwrap().len(), 1);
    assert!(is_passed(&pool, site, 1, 2).await);
    assert!(!is_passed(&pool, site, 2, 1).await, "a pair has a direction");
    done(bring_back(&pool, site, 1, 2).await);
    assert!(!is_passed(&pool, site, 1, 2).await);
}

#[sqlx::test]
async fn a_place_a_pair_and_a_page_are_passed_side_by_side_and_undone_one_by_one(pool: PgPool) {
    let site = small_site(&pool).await;
    let place = |before: &str| {
        let place = Place { before: before.to_owned(), after: " end.".to_owned() };
        Passed { place: Some(place), ..pair(1, 2) }
    };
    let all = [place("One "), place("Two "), pair(1, 2), Passed { source: None, ..pair(1, 2) }];
    for passed in &all {
        done(decide(&pool, site, Wish::Pass(passed, &[])).await);
        assert!(matches!(decide(&pool, site, Wish::Pass(passed, &[])).await, Made::TooLate), "{passed:?}");
    }
    assert_eq!(passed::to(&pool, site, None).await.unwrap(), all);
    for left in (0..all.len()).rev() {
        let undone = decision::undo(&pool, site, maker(1)).await.unwrap().unwrap();
        assert_eq!((undone.source, undone.place.as_ref()), (all[left].source, all[left].place.as_ref()));
        assert_eq!(passed::to(&pool, site, None).await.unwrap(), all[..left]);
    }
    for _ in &all {
        decision::redo(&pool, site, maker(1)).await.unwrap().unwrap();
    }
    assert_eq!(passed::to(&pool, site, None).await.unwrap(), all);
    let (id, known) = passed::of_page(&pool, site, PageId(1)).await.unwrap().remove(0);
    assert_eq!(passed::by_id(&pool, site, id).await.unwrap(), Some(known), "its number names it");
}

#[sqlx::test]
async fn decisions_teach_as_long_as_they_hold(pool: PgPool) {
    let site = small_site(&pool).await;
    let taught = async || lesson::count(&pool, site).await.unwrap();
    let adds = [0.5, 1.0, 0.0, -0.25, 0.0];
    let link = new_link(1, 2);
    done(decide(&pool, site, Wish::Take(std::slice::from_ref(&link), &[adds])).await);
    done(decide(&pool, site, Wish::Pass(&pair(1, 3), &[adds])).await);
    assert_eq!(taught().await, (1, 1));
    let lessons = lesson::all(&pool, site, 10).await.unwrap();
    assert_eq!(lessons.iter().map(|l| (l.is_kept, l.adds)).collect::<Vec<_>>(), [(true, adds), (false, adds)]);
    assert_eq!(lesson::all(&pool, site, 1).await.unwrap(), lessons[..1], "the first so many");
    done(bring_back(&pool, site, 1, 3).await);
    assert_eq!(taught().await, (1, 0), "what was brought back was passed by mistake");
    decision::undo(&pool, site, maker(1)).await.unwrap();
    assert_eq!(taught().await, (1, 1));
    decision::undo(&pool, site, maker(1)).await.unwrap();
    let change = taken::planned(&pool, site).await.unwrap()[0].id;
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert_eq!(taught().await, (0, 0), "what was dropped is not kept");
    decision::undo(&pool, site, maker(1)).await.unwrap();
    assert_eq!(taught().await, (1, 0));
    lesson::forget(&pool, site).await.unwrap();
    assert_eq!((taught().await, taken::planned(&pool, site).await.unwrap().len()), ((0, 0), 1));
}

#[sqlx::test]
async fn many_links_are_taken_and_undone_as_one(pool: PgPool) {
    let site = small_site(&pool).await;
    let links = [new_link(1, 2), new_link(1, 3), new_link(2, 3)];
    let beside = NewLink { words: TextSpan::new(20, 24), ..links[1].clone() };
    let links = [links[0].clone(), beside, links[2].clone()];
    let made = done(decide(&pool, site, Wish::Take(&links, &[])).await);
    assert_eq!((made.changes.len(), made.anchor.as_str()), (3, "3 links"));
    decision::undo(&pool, site, maker(1)).await.unwrap();
    assert!(taken::planned(&pool, site).await.unwrap().is_empty());
    // All or none: one of them is there already.
    take(&pool, site, &links[2]).await.unwrap();
    let refused = decision::make(&pool, site, maker(1), &Wish::Take(&links, &[])).await;
    assert!(refused.unwrap_err().is_conflict());
    assert_eq!(taken::planned(&pool, site).await.unwrap().len(), 1);
}

#[sqlx::test]
async fn a_new_wording_and_a_link_without_a_fit_are_kept_as_they_are(pool: PgPool) {
    let site = small_site(&pool).await;
    let says = OwnWording { before: "We ".to_owned(), anchor: "align".to_owned(), after: " it.".to_owned() };
    let link = NewLink { change: Change::Reword(says.clone()), fit: None, ..new_link(1, 2) };
    take(&pool, site, &link).await.unwrap();
    let kept = taken::planned(&pool, site).await.unwrap().remove(0).link;
    assert_eq!((kept.change, kept.fit), (Change::Reword(says), None));
    assert_eq!(link.shown_anchor(), "align");
    let again = NewLink { words: TextSpan::new(20, 24), ..new_link(1, 2) };
    assert!(take(&pool, site, &again).await.unwrap_err().is_conflict(), "the pair has a link to come");
}

#[sqlx::test]
async fn rules_of_the_house_are_kept_and_told(pool: PgPool) {
    let site = small_site(&pool).await;
    assert_eq!(house_rules::get(&pool, site).await.unwrap(), Some(HouseRules::default()));
    let limits = LinkLimits { per_sentence: 1, words_per_link: 50, first_words_free: 40, ..LinkLimits::default() };
    let rules = HouseRules {
        limits,
        never_words: vec!["click here".to_owned()],
        left_out: vec!["Legal".to_owned()],
        links_back: false,
    };
    let seq = house_rules::set(&pool, site, &rules).await.unwrap().unwrap();
    assert_eq!(house_rules::get(&pool, site).await.unwrap(), Some(rules.clone()));
    assert_eq!(journal::end(&pool, site).await.unwrap(), Some(seq));
    assert_eq!(house_rules::set(&pool, SiteId(999), &rules).await.unwrap(), None);
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
    page::put_all(&pool, stays, None, &[read("a", "<p>a</p>", &["b"])]).await.unwrap();
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

#[sqlx::test]
async fn what_most_pages_have_in_common_is_furniture_until_it_is_not(pool: PgPool) {
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
    page::put_all(&pool, site, None, &pages).await.unwrap();
    let seen = || async {
        let links = page::links(&pool, site, Some(&[PageId(1)])).await.unwrap();
        let regions: Vec<_> = links.iter().map(|link| link.region).collect();
        let facts = page::facts(&pool, site, Some(&[PageId(1), PageId(8)])).await.unwrap();
        (regions, facts.iter().map(|page| page.facts.words).collect::<Vec<_>>())
    };
    assert!(furniture::settle(&pool, site).await.unwrap().is_some());
    assert_eq!(furniture::all(&pool, site).await.unwrap(), HashSet::from([common]));
    assert_eq!(seen().await, (vec![Region::Content, Region::Menu], vec![10, 10]));
    // Nothing more to do, and nothing is told.
    assert!(furniture::settle(&pool, site).await.unwrap().is_none());
    // A page that is read again by itself, as after a release, does not bring it back into the content.
    let again = ReadPage { main_html: "again".to_owned(), crawled_hash: ContentHash::of("again"), ..page(1, true) };
    page::put_all(&pool, site, None, &[again]).await.unwrap();
    assert_eq!(seen().await, (vec![Region::Content, Region::Menu], vec![10, 10]));
    // Most pages lose it: where it still is, it is content again.
    let changed: Vec<_> = (3..=6).map(|n| page(n, false)).collect();
    page::put_all(&pool, site, None, &changed).await.unwrap();
    assert!(furniture::settle(&pool, site).await.unwrap().is_some());
    assert!(furniture::all(&pool, site).await.unwrap().is_empty());
    assert_eq!(seen().await, (vec![Region::Content, Region::Content], vec![15, 10]));
}

#[sqlx::test(migrations = "./migrations")]
async fn rows_of_a_page_need_it_and_go_with_it(pool: PgPool) {
    let site = new_site(&pool).await;
    let block = ReadBlock { key: BlockKey::from_i64(7), words: None };
    let page = ReadPage { blocks: vec![block], ..read("a", "A", &["b", "c"]) };
    let (number, _) = page::put_all(&pool, site, None, std::slice::from_ref(&page)).await.unwrap()[0];
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
