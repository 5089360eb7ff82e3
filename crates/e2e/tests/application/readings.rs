//! Readings in real life: stopped, killed, gone on with; and what re-reading tells apart.

use std::collections::BTreeSet;
use std::time::Duration;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::Stage;
use strelm_standins::live_site::{Mischief, On, Order, Trouble};

fn slow_pages(stage: &Stage, milliseconds: u64) {
    let trouble = Trouble::Slow { milliseconds };
    stage.live.obey(Order::Misbehave(Mischief { trouble, on: On::Pages, path: String::new(), times: 10_000 })).unwrap();
}

async fn reading(stage: &Stage) -> Value {
    stage.get("").await.unwrap()["reading"].clone()
}

async fn wait_for_phase(stage: &Stage, phase: &str) -> Value {
    for _ in 0..800 {
        let reading = reading(stage).await;
        if reading["phase"] == phase {
            return reading;
        }
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    panic!("the reading does not come to {phase}: {}", reading(stage).await);
}

async fn wait_until_done(stage: &Stage, addresses: i64) {
    for _ in 0..800 {
        if reading(stage).await["done"].as_i64().unwrap_or(0) >= addresses {
            return;
        }
        tokio::time::sleep(Duration::from_millis(10)).await;
    }
    panic!("the reading stands still");
}

/// How often each page was sent in full.
fn sent_twice(stage: &Stage) -> Vec<String> {
    let pages = |(asked, status): (String, u16)| {
        (status == 200 && asked.starts_with("GET /") && !asked.contains("micropub")).then_some(asked)
    };
    let mut sent: Vec<_> = stage.live.answers().into_iter().filter_map(pages).collect();
    sent.retain(|asked| !asked.ends_with("robots.txt") && !asked.ends_with("sitemap.xml"));
    sent.sort();
    let mut twice: Vec<_> = sent.windows(2).filter(|pair| pair[0] == pair[1]).map(|pair| pair[0].clone()).collect();
    twice.dedup();
    twice
}

#[sqlx::test(migrations = false)]
async fn a_reading_is_stopped_and_goes_on_where_it_was(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    // So slow that it is still under way when a busy machine comes to look.
    slow_pages(&stage, 1500);
    assert_eq!(stage.call("POST", "/readings", None).await.unwrap().0, 202);
    wait_until_done(&stage, 10).await;
    let (status, _) = stage.call("POST", "/readings", None).await.unwrap();
    assert_eq!(status, 409, "a site is read once at a time");
    let under_way = wait_for_rate(&stage).await;
    assert!(under_way["seconds_left"].as_i64().unwrap() > 0, "{under_way}");
    assert_eq!(stage.call("POST", "/readings/stop", None).await.unwrap().0, 202);
    let stopped = wait_for_phase(&stage, "stopped").await;
    let pages = stage.get("").await.unwrap()["pages"].as_i64().unwrap();
    assert!(pages > 0 && pages < 73, "{stopped}");
    assert_eq!(stage.call("POST", "/readings/stop", None).await.unwrap().0, 409);
    assert_eq!(stage.get("/today").await.unwrap()["reading"]["phase"], "stopped");
    stage.live.obey(Order::Behave).unwrap();
    assert_eq!(stage.call("POST", "/readings/go-on", None).await.unwrap().0, 202);
    let done = wait_for_phase(&stage, "done").await;
    assert_eq!((&done["pages"], &done["reading"]), (&json!(73), &stopped["reading"]));
    assert_eq!(done["known"], done["done"], "{done}");
    // Only what was on its way when it was stopped is asked for again.
    assert!(sent_twice(&stage).len() <= 16, "{:?}", sent_twice(&stage));
    assert_eq!(stage.call("POST", "/readings/go-on", None).await.unwrap().0, 409);
    stage.strike().await;
}

async fn wait_for_rate(stage: &Stage) -> Value {
    for _ in 0..400 {
        let reading = reading(stage).await;
        if reading["rate"].is_number() {
            return reading;
        }
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    panic!("the reading tells no rate");
}

#[sqlx::test(migrations = false)]
async fn a_killed_worker_s_reading_is_gone_on_with_by_another(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    stage.stop_worker();
    tokio::time::sleep(Duration::from_millis(400)).await;
    // So slow that a busy machine, too, keeps what comes before much more does.
    slow_pages(&stage, 250);
    stage.call("POST", "/readings", None).await.unwrap();
    let worker = stage.worker_process().unwrap();
    wait_until_done(&stage, 15).await;
    worker.kill().unwrap();
    let before = reading(&stage).await["done"].as_i64().unwrap();
    stage.live.obey(Order::Behave).unwrap();
    let _worker = stage.worker_process().unwrap();
    let done = wait_for_phase(&stage, "done").await;
    assert_eq!(done["pages"], 73);
    assert!(before >= 15);
    // What was read but not yet kept, and what was on its way, is asked for once more.
    assert!(sent_twice(&stage).len() < 50, "{:?}", sent_twice(&stage));
    // And nothing that was kept.
    let answers = stage.live.answers();
    let asked = answers.iter().map(|(asked, _)| asked.as_str());
    let asked: BTreeSet<&str> = asked.filter(|asked| !asked.contains("micropub")).collect();
    let (twice, before) = (sent_twice(&stage), usize::try_from(before).unwrap());
    assert!(twice.len() <= asked.len() - before, "of {} without {before} these: {twice:?}", asked.len());
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn unchanged_pages_cost_nothing_and_decisions_stay(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    stage.take("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    let opening = stage.opening("/guides/averted-vision/", "/guides/dark-adaptation/").await.unwrap();
    let pass = strelm_e2e::calls::pass_of(&opening, "pair");
    assert_eq!(stage.decide(pass).await.unwrap().0, 200);
    let before = (stage.get("/pages").await.unwrap(), stage.get("/tray").await.unwrap());
    let asked = stage.live.answers().len();
    stage.read_again().await.unwrap();
    let answers = stage.live.answers().split_off(asked);
    let full: Vec<_> = answers.iter().filter(|(_, status)| *status == 200).map(|(asked, _)| asked.as_str()).collect();
    assert_eq!(full, ["GET /robots.txt", "GET /sitemap.xml"], "everything else was unchanged, missing or moved");
    assert!(answers.iter().filter(|(_, status)| *status == 304).count() >= 73);
    let done = reading(&stage).await;
    assert_eq!((&done["fresh"], &done["changed"], &done["vanished"]), (&json!(0), &json!(0), &json!(0)));
    assert_eq!((stage.get("/pages").await.unwrap(), stage.get("/tray").await.unwrap()), before);
    assert_eq!(stage.desk("/guides/averted-vision/").await.unwrap()["passed"].as_array().unwrap().len(), 1);
    stage.strike().await;
}

async fn told(stage: &Stage, outcome: &str) -> Vec<String> {
    let reading = reading(stage).await["reading"].clone();
    let rows = stage.get(&format!("/readings/{reading}/told?outcome={outcome}")).await.unwrap();
    let path = |row: &Value| row["address"].as_str().unwrap().split('/').skip(3).collect::<Vec<_>>().join("/");
    let mut paths: Vec<_> = rows.as_array().unwrap().iter().map(path).collect();
    paths.sort();
    paths
}

#[sqlx::test(migrations = false)]
async fn new_changed_moved_and_vanished_pages_are_told_apart(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    for (target, source) in [
        ("/guides/red-torch/", "/guides/dark-adaptation/"),
        ("/guides/averted-vision/", "/guides/dark-adaptation/"),
        ("/glossary/limiting-magnitude/", "/guides/light-pollution/"),
    ] {
        stage.take(target, source).await.unwrap();
    }
    stage.live.obey(Order::Delete { path: "/guides/red-torch/".to_owned() }).unwrap();
    stage.live.obey(Order::Move { path: "/glossary/zenith/".to_owned(), to: "/glossary/seeing/".to_owned() }).unwrap();
    let changed = stage.live_source("/guides/light-pollution/").await.unwrap();
    stage.change_live_page("/guides/light-pollution/", &format!("<p>Above.</p>{changed}")).await.unwrap();
    let source = "+++\ntitle = \"Meteor shower\"\ntype = \"page\"\nlisted = false\n+++\n<p>A new page on its own.</p>";
    stage.live.obey(Order::Add { path: "/guides/meteor-shower/".to_owned(), source: source.to_owned() }).unwrap();
    stage.read_again().await.unwrap();
    assert_eq!(told(&stage, "new").await, ["guides/meteor-shower/"]);
    assert_eq!(told(&stage, "vanished").await, ["guides/red-torch/"]);
    assert_eq!(told(&stage, "moved").await, ["glossary/zenith/"]);
    assert_eq!(told(&stage, "changed").await, ["guides/light-pollution/"]);
    assert!(told(&stage, "failed").await.contains(&"guides/eclipse-glasses/".to_owned()));
    let status = stage.get("").await.unwrap();
    assert_eq!(
        (&status["pages"], &status["tray"]["links"], &status["tray"]["warnings"]),
        (&json!(72), &json!(3), &json!(1))
    );
    // The link whose target is gone says so; the one on the changed page was placed anew.
    let tray = stage.get("/tray").await.unwrap().to_string();
    assert!(tray.contains("The page that it leads to is no longer on the site"), "{tray}");
    assert!(tray.contains("\"is_gone\":true"), "what is gone is still named");
    let today = stage.get("/today").await.unwrap();
    assert_eq!(today["fresh_unlinked"]["pages"][0]["page"]["path"], "/guides/meteor-shower/");
    assert_eq!(stage.get("/pages?only=fresh").await.unwrap()["total"], 1);
    // A link that still leads to the moved address is no broken link; the gone page's number says what became of it.
    let number = stage.get("/releases").await.unwrap();
    assert_eq!(number, json!([]));
    let (status, body) = stage.call("GET", "/pages/9999/desk", None).await.unwrap();
    assert_eq!((status, body["message"].is_string()), (404, true));

    // What comes back is there again, and its link waits without a warning.
    let torch = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/pages/guides/red-torch.html"));
    stage.live.obey(Order::Add { path: "/guides/red-torch/".to_owned(), source: torch.unwrap() }).unwrap();
    stage.read_again().await.unwrap();
    assert_eq!(told(&stage, "new").await, ["guides/red-torch/"]);
    let status = stage.get("").await.unwrap();
    assert_eq!((&status["pages"], &status["tray"]["warnings"]), (&json!(73), &json!(0)));
    assert_eq!(stage.release().await.unwrap()["pages"].as_array().unwrap().len(), 2);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn limits_and_a_site_that_is_down_are_told_in_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let mut settings = stage.get("/settings").await.unwrap();
    settings["most_pages"] = json!(20);
    let (status, body) = stage.call("PUT", "/settings", Some(settings.clone())).await.unwrap();
    assert_eq!(status, 204, "{body}");
    stage.read_again().await.unwrap();
    let limited = reading(&stage).await;
    assert!(limited["message"].as_str().unwrap().contains("more than 20 addresses"), "{limited}");
    settings["most_pages"] = json!(20_000);
    stage.call("PUT", "/settings", Some(settings)).await.unwrap();
    let trouble = Trouble::Status { status: 503, retry_after: None };
    let plan = |trouble, times| Order::Misbehave(Mischief { trouble, on: On::Pages, path: String::new(), times });
    // robots.txt, the entry page and the sitemap are still answered.
    stage.live.obey(plan(Trouble::Slow { milliseconds: 1 }, 3)).unwrap();
    stage.live.obey(plan(trouble, 10_000)).unwrap();
    stage.read_site().await.unwrap();
    let failed = wait_for_phase(&stage, "failed").await;
    assert!(failed["message"].as_str().unwrap().contains("the site stopped answering"), "{failed}");
    stage.live.obey(Order::Behave).unwrap();
    stage.call("POST", "/readings/go-on", None).await.unwrap();
    wait_for_phase(&stage, "done").await;
    // What failed for good in the first run is not asked for again, but the next reading does.
    stage.read_again().await.unwrap();
    assert_eq!(stage.get("").await.unwrap()["pages"], 73);
    stage.strike().await;
}
