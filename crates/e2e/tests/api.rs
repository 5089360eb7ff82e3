//! The API against a real PostgreSQL, a real worker and the stand-in for the live site.

#![allow(clippy::unwrap_used, clippy::panic)]

use std::time::Duration;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::Stage;

/// Status and body of a call below the stage's site.
async fn call(stage: &Stage, method: &str, path: &str, body: Option<Value>) -> (u16, Value) {
    let address = stage.address(&format!("api/sites/{}{path}", stage.site.0));
    let client = strelm_sources::client::client().unwrap();
    let mut request = client.request(method.parse().unwrap(), address);
    if let Some(body) = body {
        request = request.json(&body);
    }
    let answer = request.send().await.unwrap();
    let status = answer.status().as_u16();
    (status, answer.json().await.unwrap_or(Value::Null))
}

async fn get(stage: &Stage, path: &str) -> Value {
    let (status, body) = call(stage, "GET", path, None).await;
    assert_eq!(status, 200, "{path}: {body}");
    body
}

async fn page(stage: &Stage, path: &str) -> Value {
    let rows = get(stage, "/pages").await["rows"].as_array().unwrap().clone();
    rows.into_iter().find(|row| row["path"] == path).unwrap()
}

async fn desk(stage: &Stage, path: &str) -> Value {
    let number = page(stage, path).await["number"].clone();
    get(stage, &format!("/pages/{number}/desk")).await
}

/// The body that takes an opening, from its row on a Desk.
fn wish(opening: &Value) -> Value {
    let keys = ["source", "target", "words_start", "words_end", "version"];
    keys.into_iter().map(|key| (key.to_owned(), opening[key].clone())).collect::<serde_json::Map<_, _>>().into()
}

async fn opening_in(stage: &Stage, target: &str, source: &str) -> Value {
    let desk = desk(stage, target).await;
    desk["openings_in"].as_array().unwrap().iter().find(|o| o["page"]["path"] == source).unwrap().clone()
}

async fn take(stage: &Stage, target: &str, source: &str) -> Value {
    let opening = opening_in(stage, target, source).await;
    let (status, body) = call(stage, "POST", "/taken", Some(wish(&opening))).await;
    assert_eq!(status, 200, "{body}");
    body
}

/// The latest release once it stands still.
async fn settled_release(stage: &Stage) -> Value {
    for _ in 0..400 {
        let release = get(stage, "/releases").await[0].clone();
        if ["out", "taken_back"].contains(&release["phase"].as_str().unwrap()) {
            return release;
        }
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    panic!("the release does not end");
}

#[sqlx::test(migrations = false)]
async fn pages_are_filtered_sorted_and_windowed(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let orphans = get(&stage, "/pages?only=orphans&sort=title").await;
    assert_eq!(orphans["total"], 5);
    let titles: Vec<_> = orphans["rows"].as_array().unwrap().iter().map(|row| row["title"].clone()).collect();
    let expected = ["Averted vision", "Barlow lens", "Limiting magnitude", "Occultation of Regulus", "Red torch"];
    assert_eq!(titles, expected);
    let window = get(&stage, "/pages?sort=words&descending=true&offset=2&limit=3").await;
    let all = get(&stage, "/pages?sort=words&descending=true").await;
    assert_eq!(window["rows"].as_array().unwrap()[..], all["rows"].as_array().unwrap()[2..5]);
    assert_eq!(get(&stage, "/pages?text=OBSERVING+occultation").await["total"], 1);
    let (status, _) = call(&stage, "GET", "/pages?sort=nonsense", None).await;
    assert_eq!(status, 400);
    let regulus = page(&stage, "/reports/occultation-of-regulus/").await;
    assert_eq!((&regulus["kind"], &regulus["category"]), (&json!("post"), &json!("Observing reports")));
    assert_eq!(page(&stage, "/tag/moon/").await["kind"], "term_archive");
    assert_eq!(page(&stage, "/shop/planisphere/").await["kind"], "product");
    assert_eq!(page(&stage, "/reports/").await["kind"], "collection");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn taking_passing_and_dropping_change_every_count_at_once(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let (target, source) = ("/guides/red-torch/", "/guides/dark-adaptation/");
    let opening = opening_in(&stage, target, source).await;
    let taken = take(&stage, target, source).await;
    assert_eq!(taken["tray"], json!({"links": 1, "pages": 1, "warnings": 0}));
    let row = page(&stage, target).await;
    assert_eq!((&row["links_in"], &row["planned_in"], &row["depth"]), (&json!(1), &json!(1), &json!(2)));
    assert_eq!(get(&stage, "").await["orphans"], 4);
    let (status, problem) = call(&stage, "POST", "/taken", Some(wish(&opening))).await;
    assert_eq!(status, 409, "{problem}");
    let (status, _) = call(&stage, "DELETE", &format!("/taken/{}", taken["change"]), None).await;
    assert_eq!(status, 204);
    assert_eq!(page(&stage, target).await["depth"], Value::Null);
    let (status, problem) = call(&stage, "DELETE", &format!("/taken/{}", taken["change"]), None).await;
    assert_eq!((status, problem["message"].as_str().unwrap().contains("not in the tray")), (409, true));

    let pair = json!({"source": opening["source"], "target": opening["target"], "anchor": "red torch"});
    let (status, _) = call(&stage, "POST", "/passed", Some(pair)).await;
    assert_eq!(status, 204);
    let after = desk(&stage, target).await;
    assert!(after["openings_in"].as_array().unwrap().iter().all(|o| o["page"]["path"] != source));
    assert_eq!(after["passed"][0]["anchor"], "red torch");
    let passed = format!("/passed/{}/{}", opening["source"], opening["target"]);
    assert_eq!(call(&stage, "DELETE", &passed, None).await.0, 204);
    opening_in(&stage, target, source).await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn only_what_was_found_on_the_version_that_was_seen_can_be_taken(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let opening = opening_in(&stage, "/guides/red-torch/", "/guides/dark-adaptation/").await;
    for (key, value) in [("version", json!("00")), ("words_end", json!(opening["words_end"].as_u64().unwrap() + 1))] {
        let mut wrong = wish(&opening);
        wrong[key] = value;
        let (status, problem) = call(&stage, "POST", "/taken", Some(wrong)).await;
        assert_eq!(status, 409, "{problem}");
    }
    let mut wrong = wish(&opening);
    wrong["target"] = json!(9999);
    assert_eq!(call(&stage, "POST", "/taken", Some(wrong)).await.0, 404);
    assert_eq!(get(&stage, "/tray").await, json!([]));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn another_server_on_the_same_database_agrees(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let second = stage.second_server().await.unwrap();
    let address = second.address(&format!("api/sites/{}", stage.site.0));
    let client = strelm_sources::client::client().unwrap();
    let orphans = || async {
        let status: Value = client.get(&address).send().await.unwrap().json().await.unwrap();
        status["orphans"].clone()
    };
    assert_eq!(orphans().await, 5);
    take(&stage, "/guides/red-torch/", "/guides/dark-adaptation/").await;
    assert_eq!(orphans().await, 4);
    second.stop().await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_release_changes_markup_only_and_comes_back_whole(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let source = "/guides/dark-adaptation/";
    let targets = ["/guides/red-torch/", "/guides/averted-vision/", "/glossary/limiting-magnitude/"];
    for target in targets {
        take(&stage, target, source).await;
    }
    let before = stage.live_source(source).await.unwrap();
    assert_eq!(call(&stage, "POST", "/releases", None).await.0, 200);
    let release = settled_release(&stage).await;
    assert_eq!((&release["links"], &release["pages"][0]["phase"]), (&json!(3), &json!("out")));
    let after = stage.live_source(source).await.unwrap();
    let text = |html: &str| strelm_core::document::Document::from_html(html).text().as_str().to_owned();
    assert_eq!(text(&after), text(&before));
    for target in targets {
        assert_eq!(after.matches(&format!("<a href=\"{target}\">")).count(), 1);
        let row = page(&stage, target).await;
        assert_eq!((&row["links_in"], &row["planned_in"], &row["depth"]), (&json!(1), &json!(0), &json!(2)));
    }
    let (status, _) = call(&stage, "POST", "/releases", None).await;
    assert_eq!(status, 409, "an empty tray is not released");
    let back = format!("/releases/{}/take-back", release["release"]);
    assert_eq!(call(&stage, "POST", &back, None).await.0, 202);
    while settled_release(&stage).await["phase"] != "taken_back" {
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    assert_eq!(stage.live_source(source).await.unwrap(), before);
    assert_eq!(get(&stage, "").await["orphans"], 5);
    assert_eq!(call(&stage, "POST", &back, None).await.0, 409, "it is taken back once");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_page_that_changed_after_the_release_is_left_alone(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let source = "/guides/dark-adaptation/";
    take(&stage, "/guides/red-torch/", source).await;
    let before = stage.live_source(source).await.unwrap();
    call(&stage, "POST", "/releases", None).await;
    let release = settled_release(&stage).await;
    let after = stage.live_source(source).await.unwrap();
    let edited = format!("{after}<p>Later.</p>");
    stage.change_live_page(source, &edited).await.unwrap();
    let back = format!("/releases/{}/take-back", release["release"]);
    call(&stage, "POST", &back, None).await;
    let mut tried = settled_release(&stage).await;
    while tried["pages"][0]["phase"] != "not_taken_back" {
        tokio::time::sleep(Duration::from_millis(25)).await;
        tried = settled_release(&stage).await;
    }
    assert!(tried["pages"][0]["message"].as_str().unwrap().contains("changed on the site after the release"));
    assert_eq!(stage.live_source(source).await.unwrap(), edited);
    stage.change_live_page(source, &after).await.unwrap();
    assert_eq!(call(&stage, "POST", &back, None).await.0, 202, "it can be tried again");
    while settled_release(&stage).await["phase"] != "taken_back" {
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    assert_eq!(stage.live_source(source).await.unwrap(), before);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_refused_token_holds_the_release_back_and_loses_nothing(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    take(&stage, "/guides/red-torch/", "/guides/dark-adaptation/").await;
    stage.set_token("wrong").unwrap();
    call(&stage, "POST", "/releases", None).await;
    let release = settled_release(&stage).await;
    assert_eq!(release["pages"][0]["phase"], "held_back");
    let tray = get(&stage, "/tray").await;
    let warning = tray[0]["links"][0]["warning"].as_str().unwrap();
    assert!(warning.contains("refuses the token"), "{warning}");
    assert_eq!(get(&stage, "").await["tray"]["warnings"], 1);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn requests_from_elsewhere_are_refused_and_pages_load_from_here_only(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let client = strelm_sources::client::client().unwrap();
    let readings = stage.address(&format!("api/sites/{}/readings", stage.site.0));
    let foreign = client.post(&readings).header("origin", "http://evil.example").send().await.unwrap();
    assert_eq!(foreign.status(), 403);
    let rebound = client.get(stage.address("api/sites")).header("host", "evil.example").send().await.unwrap();
    assert_eq!(rebound.status(), 403);
    let own = client.get(stage.address("api/sites")).send().await.unwrap();
    let policy = own.headers()["content-security-policy"].to_str().unwrap().to_owned();
    assert!(policy.starts_with("default-src 'none'; script-src 'self';"), "{policy}");

    let number = page(&stage, "/guides/collimation/").await["number"].clone();
    let html = get(&stage, &format!("/pages/{number}/desk")).await["html"].as_str().unwrap().to_owned();
    let picture = html.split("src=\"").nth(1).unwrap().split('"').next().unwrap().replace("&amp;", "&");
    let shown = client.get(stage.address(picture.trim_start_matches('/'))).send().await.unwrap();
    assert_eq!((shown.status().as_u16(), &shown.headers()["content-type"]), (200, &"image/svg+xml".parse().unwrap()));
    assert!(shown.headers()["content-security-policy"].to_str().unwrap().contains("sandbox"));
    for address in ["http://169.254.169.254/", "file:///etc/passwd", "http://127.0.0.1:1/x.svg"] {
        let query = format!("/pictures?address={address}");
        assert_eq!(call(&stage, "GET", &query, None).await.0, 404, "{address}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_journal_is_told_to_whoever_listens(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let client = strelm_sources::client::client().unwrap();
    let events = stage.address(&format!("api/sites/{}/events", stage.site.0));
    let mut answer = client.get(events).send().await.unwrap();
    let mut seen = String::new();
    let mut read = async |until: &dyn Fn(&str) -> bool| {
        while !until(&seen) {
            let chunk = tokio::time::timeout(Duration::from_secs(5), answer.chunk()).await.unwrap().unwrap().unwrap();
            seen.push_str(std::str::from_utf8(&chunk).unwrap());
        }
        seen.clone()
    };
    let last = |text: &str| text.lines().filter_map(|l| l.strip_prefix("data: ")?.parse::<i64>().ok()).next_back();
    let begin = last(&read(&|text| text.contains("data: ")).await).unwrap();
    take(&stage, "/guides/red-torch/", "/guides/dark-adaptation/").await;
    read(&|text| last(text) == Some(begin + 1)).await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_is_not_there_is_said_in_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    for path in ["/pages/9999/desk", "/pages/0/desk"] {
        let (status, problem) = call(&stage, "GET", path, None).await;
        assert_eq!((status, problem["message"].is_string()), (404, true), "{path}");
    }
    let client = strelm_sources::client::client().unwrap();
    let unknown = client.get(stage.address("api/sites/77/pages")).send().await.unwrap();
    assert_eq!(unknown.status(), 404);
    let (status, problem) = call(&stage, "POST", "/readings", None).await;
    assert_eq!(status, 202, "{problem}");
    let (status, problem) = call(&stage, "POST", "/readings", None).await;
    if status != 202 {
        assert!(problem["message"].as_str().unwrap().contains("under way"));
    }
    stage.wait_for_reading().await.unwrap();
    assert_eq!(get(&stage, "/pages").await["total"], 57, "reading again changes no numbers");
    stage.strike().await;
}
