//! Setup: each mistake has its own words, tokens are never shown, and a site is deleted only by its name.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, TOKEN, http};

async fn look(stage: &Stage, source: Value) -> Value {
    let answer = http().unwrap().post(stage.address("api/sites/look")).json(&source).send().await.unwrap();
    assert_eq!(answer.status(), 200);
    answer.json().await.unwrap()
}

#[sqlx::test(migrations = false)]
async fn each_mistake_has_its_own_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let entry = stage.live.entry();
    let micropub = stage.live.micropub();
    let page = format!("{entry}about/");
    let web = |address: &str| json!({"kind": "web", "address": address});
    let edited =
        |micropub: &str, token: &str| json!({"kind": "web", "address": page, "micropub": micropub, "token": token});
    let folder = |path: &str| json!({"kind": "folder", "path": path});
    let empty = stage.folder("empty").unwrap();
    let cases = [
        (web(""), "address", "Type the address"),
        (web("two words.example"), "address", "no spaces"),
        (web("edda@larkmoor.example"), "address", "mail address"),
        (web("larkmoor"), "address", "not the whole name of a host"),
        (web("ftp://larkmoor.example/"), "address", "begins with http"),
        (web("http://["), "address", "is not a web address"),
        (web("http://10.0.0.7/"), "address", "not a public address"),
        (web("http://169.254.169.254/"), "address", "not a public address"),
        (web("http://127.0.0.1:1/"), "address", "does not answer"),
        (web(&format!("{entry}nothing/")), "address", "no page at this address (status 404)"),
        (web(&format!("{entry}media/orion.svg")), "address", "not a web page"),
        (web(&micropub), "address", "robots.txt of the site asks"),
        (edited("micropub", "x"), "micropub", "not a web address"),
        (edited(&micropub, ""), "token", "needs a token"),
        (edited(&micropub, "two words"), "token", "no spaces"),
        (edited(&micropub, "wrong"), "token", "refuses this token"),
        (edited(&page, "x"), "micropub", "does not speak Micropub"),
        (edited("http://127.0.0.1:1/mp", "x"), "micropub", "does not answer"),
        (folder(""), "folder", "Type the path"),
        (folder("notes"), "folder", "beginning with /"),
        (folder("/etc"), "folder", "below those that may be read"),
        (folder(empty.to_str().unwrap()), "folder", "no HTML or Markdown files"),
    ];
    for (source, field, words) in cases {
        let looked = look(&stage, source.clone()).await;
        let problem = &looked["problem"];
        let message = problem["message"].as_str().unwrap_or_default();
        assert!(problem["field"] == field && message.contains(words), "{source}: {looked}");
    }
    let good = look(&stage, edited(&micropub, TOKEN)).await;
    assert_eq!(good["problem"], Value::Null, "{good}");
    assert!(good["says"].to_string().contains("takes the token"), "{good}");
    let known = look(&stage, web(&entry)).await;
    assert_eq!((&known["known_as"], &known["name"]), (&json!(stage.site.0), &json!("Larkmoor Sky Society")));
    assert_eq!(known["micropub"], micropub);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_token_is_kept_and_never_shown(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let settings = stage.get("/settings").await.unwrap();
    assert_eq!(settings["has_token"], true);
    assert!(!settings.to_string().contains(TOKEN));
    let change = |key: &str, value: Value| {
        let mut changed = settings.clone();
        changed[key] = value;
        changed
    };
    let (status, problem) = stage.call("PUT", "/settings", Some(change("token", json!("wrong")))).await.unwrap();
    assert_eq!(status, 422);
    assert!(problem["message"].as_str().unwrap().contains("refuses this token"), "{problem}");
    let (status, _) = stage.call("PUT", "/settings", Some(change("name", json!("New name")))).await.unwrap();
    assert_eq!(status, 204, "the token that is there still counts");
    for (key, value) in [
        ("name", json!(" ")),
        ("most_pages", json!(0)),
        ("delay_ms", json!(90_000)),
        ("entries", json!(["https://elsewhere.example/"])),
    ] {
        let (status, problem) = stage.call("PUT", "/settings", Some(change(key, value))).await.unwrap();
        assert_eq!((status, problem["message"].is_string()), (422, true), "{key}");
    }
    // Without an interface the token goes.
    let (status, _) = stage.call("PUT", "/settings", Some(change("micropub", Value::Null))).await.unwrap();
    assert_eq!(status, 204);
    let settings = stage.get("/settings").await.unwrap();
    assert_eq!((&settings["has_token"], &settings["name"]), (&json!(false), &json!("Larkmoor Sky Society")));
    let dump: Vec<String> = sqlx::query_scalar("select site::text from site").fetch_all(&stage.pool).await.unwrap();
    assert!(dump.iter().all(|row| !row.contains(TOKEN)));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_counts_as_a_road_changes_depths_at_once(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let depth = async |path: &str| stage.page(path).await.unwrap()["depth"].clone();
    assert_eq!(depth("/accessibility/").await, 1);
    let mut settings = stage.get("/settings").await.unwrap();
    settings["roads"] = json!("content");
    assert_eq!(stage.call("PUT", "/settings", Some(settings.clone())).await.unwrap().0, 204);
    assert_eq!(depth("/accessibility/").await, Value::Null, "only the footer leads there");
    let unreachable = stage.get("").await.unwrap()["unreachable"].as_i64().unwrap();
    assert!(unreachable > 12, "{unreachable}");
    settings["entries"] = json!(["/accessibility/", "/events/star-party/"]);
    assert_eq!(stage.call("PUT", "/settings", Some(settings)).await.unwrap().0, 204);
    assert_eq!(depth("/accessibility/").await, 0);
    assert_eq!(depth("/events/star-party-camping/").await, 1);
    assert_eq!(stage.page("/accessibility/").await.unwrap()["is_entry"], true);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_site_is_deleted_by_its_name_alone(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    stage.take("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    assert_eq!(stage.call("DELETE", "?name=Larkmoor", None).await.unwrap().0, 422);
    assert_eq!(stage.get("").await.unwrap()["pages"], 73);
    let before = stage.live.answers().len();
    assert_eq!(stage.call("DELETE", "?name=Larkmoor+Sky+Society", None).await.unwrap().0, 204);
    for path in ["", "/pages", "/tray", "/today", "/settings"] {
        let (status, problem) = stage.call("GET", path, None).await.unwrap();
        assert_eq!((status, problem["message"].is_string()), (404, true), "{path}");
    }
    assert_eq!(stage.live.answers().len(), before, "the site itself is not touched");
    stage.strike().await;
}
