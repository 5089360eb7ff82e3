//! Releases in real life: a site that misbehaves, workers that die, pages and targets that change, and taking back.

use std::collections::BTreeMap;
use std::time::Duration;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_core::document::Document;
use strelm_e2e::stage::Stage;
use strelm_standins::live_site::{Mischief, On, Order, Trouble};

const SOURCE: &str = "/guides/dark-adaptation/";
const TORCH: &str = "/guides/red-torch/";
const VISION: &str = "/guides/averted-vision/";

fn trouble(stage: &Stage, trouble: Trouble, on: On, times: u32) {
    stage.live.obey(Order::Misbehave(Mischief { trouble, on, path: String::new(), times })).unwrap();
}

const DOWN: Trouble = Trouble::Status { status: 503, retry_after: None };

async fn take_back(stage: &Stage, release: &Value) -> u16 {
    let path = format!("/releases/{}/take-back", release["release"]);
    stage.call("POST", &path, None).await.unwrap().0
}

async fn sources(stage: &Stage, paths: &[String]) -> BTreeMap<String, String> {
    let mut sources = BTreeMap::new();
    for path in paths {
        sources.insert(path.clone(), stage.live_source(path).await.unwrap());
    }
    sources
}

/// Takes one opening on each of up to `most` pages; gives the pages.
async fn take_many(stage: &Stage, most: usize) -> Vec<String> {
    let mut pages = Vec::new();
    for target in [TORCH, VISION, "/glossary/limiting-magnitude/", "/guides/finderscope/", "/glossary/barlow-lens/"] {
        for opening in stage.desk(target).await.unwrap()["openings_in"].as_array().unwrap() {
            let page = opening["page"]["path"].as_str().unwrap().to_owned();
            if pages.len() < most && !pages.contains(&page) {
                let (status, _) = stage.decide(strelm_e2e::calls::take_of(opening)).await.unwrap();
                if status == 200 {
                    pages.push(page);
                }
            }
        }
    }
    pages
}

fn without_links(html: &str) -> String {
    Document::from_html(html).text().as_str().to_owned()
}

#[sqlx::test(migrations = false)]
async fn passing_trouble_of_the_site_is_outwaited(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    for (kind, on) in [
        (DOWN, On::Sources),
        (DOWN, On::Changes),
        (Trouble::Status { status: 429, retry_after: Some(1) }, On::Changes),
        (Trouble::Drop, On::Sources),
        (Trouble::Drop, On::Changes),
        (Trouble::LoseAnswer, On::Changes),
        (Trouble::Half, On::Sources),
        (Trouble::Slow { milliseconds: 700 }, On::Changes),
        (DOWN, On::Pages),
        (Trouble::Half, On::Pages),
    ] {
        stage.take(TORCH, SOURCE).await.unwrap();
        let before = stage.live_source(SOURCE).await.unwrap();
        trouble(&stage, kind, on, 1);
        let release = stage.release().await.unwrap();
        assert_eq!(release["pages"][0]["phase"], "out", "{kind:?} {on:?}: {release}");
        let after = stage.live_source(SOURCE).await.unwrap();
        assert_eq!(after.matches(TORCH).count(), 1, "{kind:?} {on:?}: the link is there once");
        assert_eq!(without_links(&after), without_links(&before));
        stage.live.obey(Order::Behave).unwrap();
        assert_eq!(take_back(&stage, &release).await, 202);
        stage.release_in(&["taken_back"]).await.unwrap();
        assert_eq!(stage.live_source(SOURCE).await.unwrap(), before, "{kind:?} {on:?}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_site_that_is_down_interrupts_the_release_and_there_are_three_ways_on(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let pages = take_many(&stage, 3).await;
    let before = sources(&stage, &pages).await;
    // The first page goes out, then the site is down.
    trouble(&stage, Trouble::Slow { milliseconds: 1 }, On::Changes, 1);
    trouble(&stage, DOWN, On::Changes, 100);
    stage.call("POST", "/releases", None).await.unwrap();
    let release = stage.release_in(&["interrupted"]).await.unwrap();
    let message = release["message"].as_str().unwrap();
    assert!(message.contains("busy or broken"), "{message}");
    let out = release["pages"].as_array().unwrap().iter().filter(|page| page["phase"] == "out").count();
    assert_eq!(out, 1);
    let today = stage.get("/today").await.unwrap();
    assert_eq!(today["releases_interrupted"][0]["release"], release["release"]);
    assert_eq!(stage.get("").await.unwrap()["interrupted"], true);
    let (status, _) = stage.call("POST", "/releases", None).await.unwrap();
    assert_eq!(status, 409, "another one waits until this is decided");

    stage.live.obey(Order::Behave).unwrap();
    let order = |what: &str| format!("/releases/{}/{what}", release["release"]);
    assert_eq!(stage.call("POST", &order("go-on"), None).await.unwrap().0, 202);
    let release = stage.release_in(&["out"]).await.unwrap();
    assert!(release["pages"].as_array().unwrap().iter().all(|page| page["phase"] == "out"), "{release}");
    assert_eq!(stage.call("POST", &order("go-on"), None).await.unwrap().0, 409);
    assert_eq!(take_back(&stage, &release).await, 202);
    stage.release_in(&["taken_back"]).await.unwrap();
    assert_eq!(sources(&stage, &pages).await, before);

    // Giving up puts the rest back into the tray, and what went out can be taken back.
    take_many(&stage, 3).await;
    trouble(&stage, Trouble::Slow { milliseconds: 1 }, On::Changes, 1);
    trouble(&stage, DOWN, On::Changes, 100);
    stage.call("POST", "/releases", None).await.unwrap();
    let release = stage.release_in(&["interrupted"]).await.unwrap();
    stage.live.obey(Order::Behave).unwrap();
    let order = format!("/releases/{}/give-up", release["release"]);
    assert_eq!(stage.call("POST", &order, None).await.unwrap().0, 204);
    assert_eq!(stage.get("").await.unwrap()["tray"]["links"], 2);
    let release = stage.release_in(&["out"]).await.unwrap();
    assert_eq!(take_back(&stage, &release).await, 202);
    stage.release_in(&["taken_back"]).await.unwrap();
    assert_eq!(sources(&stage, &pages).await, before);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_refused_token_interrupts_and_loses_nothing(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    stage.take(TORCH, SOURCE).await.unwrap();
    stage.set_token("wrong").unwrap();
    stage.call("POST", "/releases", None).await.unwrap();
    let release = stage.release_in(&["interrupted"]).await.unwrap();
    assert!(release["message"].as_str().unwrap().contains("refuses the token"), "{release}");
    stage.set_token(strelm_e2e::stage::TOKEN).unwrap();
    stage.call("POST", &format!("/releases/{}/go-on", release["release"]), None).await.unwrap();
    assert_eq!(stage.release_in(&["out"]).await.unwrap()["pages"][0]["phase"], "out");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn every_change_is_checked_once_more_before_it_goes_out(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    for target in [TORCH, VISION, "/glossary/limiting-magnitude/"] {
        stage.take(target, SOURCE).await.unwrap();
    }
    // One target is deleted, another moved; nobody read the site since.
    stage.live.obey(Order::Delete { path: TORCH.to_owned() }).unwrap();
    stage.live.obey(Order::Move { path: VISION.to_owned(), to: "/guides/".to_owned() }).unwrap();
    let release = stage.release().await.unwrap();
    assert_eq!(release["pages"][0]["phase"], "out");
    let after = stage.live_source(SOURCE).await.unwrap();
    assert!(!after.contains(TORCH) && !after.contains(VISION) && after.contains("/glossary/limiting-magnitude/"));
    let tray = stage.get("/tray").await.unwrap();
    let warnings: Vec<_> =
        tray[0]["links"].as_array().unwrap().iter().map(|link| link["warning"].as_str().unwrap()).collect();
    assert_eq!(warnings.len(), 2);
    assert!(warnings.iter().any(|warning| warning.contains("is not there any more (status 404)")), "{warnings:?}");
    assert!(warnings.iter().any(|warning| warning.contains("has moved to /guides/")), "{warnings:?}");
    // Words that somebody linked on the site meanwhile are left alone.
    let linked = stage.live_source("/guides/collimation/").await.unwrap();
    let openings = stage.desk("/guides/collimation/").await.unwrap()["openings_out"].clone();
    let opening = openings.as_array().unwrap().iter().find(|o| o["page"]["path"] != TORCH).unwrap().clone();
    let words = opening["sentence"]["anchor"].as_str().unwrap();
    assert_eq!(stage.decide(strelm_e2e::calls::take_of(&opening)).await.unwrap().0, 200);
    assert!(linked.contains(words), "the words stand in one line: {words}");
    let by_hand = linked.replacen(words, &format!("<a href=\"/\">{words}</a>"), 1);
    stage.change_live_page("/guides/collimation/", &by_hand).await.unwrap();
    stage.release().await.unwrap();
    assert_eq!(stage.live_source("/guides/collimation/").await.unwrap(), by_hand);
    let tray = stage.get("/tray").await.unwrap().to_string();
    assert!(tray.contains("the words already carry a link"), "{tray}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_release_is_taken_back_from_pages_that_others_changed_since(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let original = stage.live_source(SOURCE).await.unwrap();
    stage.take(TORCH, SOURCE).await.unwrap();
    let first = stage.release().await.unwrap();
    stage.take(VISION, SOURCE).await.unwrap();
    let second = stage.release().await.unwrap();
    assert_ne!(first["release"], second["release"]);
    // The first goes, the second stays.
    assert_eq!(take_back(&stage, &first).await, 202);
    wait_for(&stage, &first, "taken_back").await;
    let after = stage.live_source(SOURCE).await.unwrap();
    assert!(!after.contains(TORCH) && after.contains(VISION));
    assert_eq!(take_back(&stage, &second).await, 202);
    wait_for(&stage, &second, "taken_back").await;
    assert_eq!(stage.live_source(SOURCE).await.unwrap(), original);

    // On a page that was rewritten, what still stands is taken out, and the rest is told.
    stage.take(TORCH, SOURCE).await.unwrap();
    stage.take(VISION, SOURCE).await.unwrap();
    let third = stage.release().await.unwrap();
    let out = stage.live_source(SOURCE).await.unwrap();
    let rewritten =
        out.replace(&format!("<a href=\"{TORCH}\">red torch</a>"), &format!("<a href=\"{TORCH}\">dim lamp</a>"));
    assert_ne!(rewritten, out);
    stage.change_live_page(SOURCE, &rewritten).await.unwrap();
    assert_eq!(take_back(&stage, &third).await, 202);
    let tried = wait_for(&stage, &third, "out").await;
    assert_eq!(tried["pages"][0]["phase"], "not_taken_back");
    let message = tried["pages"][0]["message"].as_str().unwrap();
    assert!(message.contains("“red torch” is no longer in the sentence"), "{message}");
    let left = stage.live_source(SOURCE).await.unwrap();
    assert!(left.contains("dim lamp</a>") && !left.contains(VISION), "{left}");
    stage.strike().await;
}

async fn wait_for(stage: &Stage, release: &Value, phase: &str) -> Value {
    for _ in 0..800 {
        let releases = stage.get("/releases").await.unwrap();
        let found = releases.as_array().unwrap().iter().find(|one| one["release"] == release["release"]).unwrap();
        let is_settled = found["pages"].as_array().unwrap().iter().all(|page| page["phase"] != "out");
        if found["phase"] == phase && is_settled {
            return found.clone();
        }
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    panic!("release {} does not come to {phase}", release["release"]);
}

/// How often the worker is killed; a longer run is `STRELM_KILLS=20 cargo xtask test --test application releases`.
fn kills() -> u64 {
    std::env::var("STRELM_KILLS").ok().and_then(|kills| kills.parse().ok()).unwrap_or(3)
}

#[sqlx::test(migrations = false)]
async fn a_worker_killed_in_the_middle_leaves_each_page_before_or_after(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    stage.stop_worker();
    tokio::time::sleep(Duration::from_millis(400)).await;
    let pages = take_many(&stage, 8).await;
    assert!(pages.len() >= 6, "{pages:?}");
    let before = sources(&stage, &pages).await;
    // Slow enough to be killed in the middle of a page.
    trouble(&stage, Trouble::Slow { milliseconds: 120 }, On::Sources, 10_000);
    trouble(&stage, Trouble::Slow { milliseconds: 120 }, On::Changes, 10_000);
    stage.call("POST", "/releases", None).await.unwrap();
    let mut random = 0x5eed_u64;
    for round in 0..kills() {
        let worker = stage.worker_process().unwrap();
        random = random.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
        // Time to start, and up to two seconds of work.
        tokio::time::sleep(Duration::from_millis(500 + (random >> 33) % 2000)).await;
        worker.kill().unwrap();
        for (path, now) in sources(&stage, &pages).await {
            let untouched = now == before[&path];
            let linked = without_links(&now) == without_links(&before[&path])
                && now.matches("<a ").count() == before[&path].matches("<a ").count() + 1;
            assert!(untouched || linked, "round {round}: {path} is neither before nor after:\n{now}");
        }
    }
    stage.live.obey(Order::Behave).unwrap();
    let _worker = stage.worker_process().unwrap();
    let release = stage.release_in(&["out"]).await.unwrap();
    assert!(release["pages"].as_array().unwrap().iter().all(|page| page["phase"] == "out"), "{release}");
    let after = sources(&stage, &pages).await;
    for (path, now) in &after {
        assert_eq!(now.matches("<a ").count(), before[path].matches("<a ").count() + 1, "{path}: once and not twice");
    }
    assert_eq!(stage.get("").await.unwrap()["tray"], json!({"links": 0, "pages": 0, "warnings": 0, "handed_over": 0}));
    // And back again, killed once more.
    assert_eq!(take_back(&stage, &release).await, 202);
    stage.release_in(&["taken_back"]).await.unwrap();
    assert_eq!(sources(&stage, &pages).await, before);
    stage.strike().await;
}
