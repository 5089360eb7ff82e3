//! What the tests of the store begin with: pages, a small site, links, decisions.

#![allow(clippy::unwrap_used, clippy::panic, dead_code)]

use std::collections::HashSet;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Format, LinkAttributes, QuotedSentence, Region, TextSpan};
use strelm_core::site::{Address, BlockKey, ChangeId, LanguageVersion, PageId, PageKind, Standing, Validators, day_of};
use strelm_core::tray::{Change, Decision, Ended, Passed, PlannedLink, TrayState};
use strelm_store::decision::{self, Made, Maker, Wish};
use strelm_store::page::{self, ReadLink, ReadPage, Says, Source};
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage};
use strelm_store::site::{Settings, SiteSource, Way};
use strelm_store::{Seq, SiteId, StoreError, boilerplate, passed, site, tray};
use uuid::Uuid;

/// The boilerplate that is known of a site, as a reading has it.
pub async fn known_boilerplate(pool: &PgPool, site: SiteId) -> HashSet<BlockKey> {
    boilerplate::all(pool, site).await.unwrap()
}

pub fn address(path: &str) -> Address {
    Address::parse(&format!("https://site.example/{path}")).unwrap()
}

pub fn read(path: &str, source: &str, links: &[&str]) -> ReadPage {
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
        says: Says { published: Some("2026-03-01T08:00".to_owned()), description: None, tags: vec!["a, b".to_owned()] },
        standing: Standing {
            noindex: true,
            canonical: Some(address("canonical")),
            versions: vec![LanguageVersion { language: "fr".to_owned(), address: address("fr") }],
            published: day_of("2026-03-01"),
        },
    }
}

pub fn source_of(text: &str) -> Source {
    Source { text: text.to_owned(), format: Format::Html, hash: ContentHash::of(text) }
}

pub fn link(to: &str, is_tag: bool) -> ReadLink {
    ReadLink {
        href: format!("/{to}"),
        to: address(to),
        fragment: None,
        anchor: to.to_owned(),
        region: Region::Content,
        block: None,
        is_tag,
        attributes: LinkAttributes { title: Some("A “title”".to_owned()), ..LinkAttributes::default() },
    }
}

pub fn settings(name: &str, micropub: Option<&str>) -> Settings {
    Settings::new(name, SiteSource::Web { micropub: micropub.map(str::to_owned) })
}

pub fn maker(hand: u128) -> Maker {
    Maker { hand: Uuid::from_u128(hand), key: Uuid::new_v4() }
}

pub async fn take(pool: &PgPool, site: SiteId, link: &PlannedLink) -> Result<ChangeId, StoreError> {
    match decision::make(pool, site, maker(1), &Wish::Take(std::slice::from_ref(link), &[], &[])).await? {
        Made::Done(decision) => Ok(decision.changes[0]),
        other => panic!("a link is taken or in conflict, not {other:?}"),
    }
}

pub async fn decide(pool: &PgPool, site: SiteId, wish: Wish<'_>) -> Made {
    decision::make(pool, site, maker(1), &wish).await.unwrap()
}

pub async fn pass(pool: &PgPool, site: SiteId, source: u32, target: u32) -> Made {
    decide(pool, site, Wish::Pass(&pair(source, target), &[])).await
}

pub fn pair(source: u32, target: u32) -> Passed {
    Passed { source: Some(PageId(source)), target: PageId(target), anchor: "words".to_owned(), place: None }
}

pub async fn bring_back(pool: &PgPool, site: SiteId, source: u32, target: u32) -> Made {
    decide(pool, site, Wish::BringBack(&pair(source, target))).await
}

pub fn done(made: Made) -> Decision {
    match made {
        Made::Done(decision) => decision,
        other => panic!("not done: {other:?}"),
    }
}

pub async fn new_site(pool: &PgPool) -> SiteId {
    site::add(pool, &address(""), &settings("Site", None)).await.unwrap().0
}

/// A site with pages 1, 2 and 3.
pub async fn small_site(pool: &PgPool) -> SiteId {
    let site = new_site(pool).await;
    let pages = [read("a", "<p>a</p>", &["b"]), read("b", "<p>b</p>", &[]), read("c", "<p>c</p>", &["a", "a"])];
    page::put_all(pool, site, None, &pages, &known_boilerplate(pool, site).await).await.unwrap();
    site
}

pub fn new_link(source: u32, target: u32) -> PlannedLink {
    PlannedLink {
        change: Change::Put,
        source: PageId(source),
        target: Some(PageId(target).into()),
        words: TextSpan::new(0, 1),
        source_hash: ContentHash::of("x"),
        said: QuotedSentence { before: "some ".to_owned(), anchor: "words".to_owned(), after: " here".to_owned() },
        href: "/b".to_owned(),
        says: Vec::new(),
        fit: Some(61.5),
        by_rule: None,
    }
}

pub async fn begin_release(pool: &PgPool, site: SiteId) -> ReleaseId {
    let mut tx = pool.begin().await.unwrap();
    let (id, _) = release::begin(&mut tx, site, Way::Written).await.unwrap().unwrap();
    tx.commit().await.unwrap();
    id
}

pub async fn finish(
    pool: &PgPool,
    site: SiteId,
    release: ReleaseId,
    page: u32,
    state: PageState,
    message: Option<&str>,
    links: &[(ChangeId, TrayState)],
) -> Result<Seq, StoreError> {
    let message = message.map(str::to_owned);
    let ended: Vec<_> = links
        .iter()
        .map(|(change, state)| Ended { change: *change, state: *state, message: message.clone() })
        .collect();
    release::finish_page(pool, site, &ReleasePage { release, page: PageId(page), state, message }, &ended).await
}

pub async fn is_passed(pool: &PgPool, site: SiteId, source: u32, target: u32) -> bool {
    passed::to(pool, site, Some(&[PageId(target)])).await.unwrap().contains(&pair(source, target))
}

pub async fn state_of(pool: &PgPool, site: SiteId, change: ChangeId) -> (TrayState, Option<String>) {
    let taken = tray::by_id(pool, site, &[change]).await.unwrap().pop().unwrap();
    (taken.state, taken.message)
}
