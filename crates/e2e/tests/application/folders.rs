//! A folder as a site, from adding it to taking a release back.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::calls::take_of;
use strelm_e2e::stage::{Stage, http};

async fn post(stage: &Stage, path: &str, body: Value) -> (u16, Value) {
    let answer = http().unwrap().post(stage.address(path)).json(&body).send().await.unwrap();
    (answer.status().as_u16(), answer.json().await.unwrap_or(Value::Null))
}

/// The latest release once it has come so far, or as it is after ten seconds.
async fn released(stage: &Stage, site: i32, phase: &str) -> Value {
    let mut release = Value::Null;
    for _ in 0..400 {
        release = stage.call_site(site, "GET", "/releases", None).await.unwrap().1[0].clone();
        if release["phase"] == phase {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(25)).await;
    }
    release
}

#[sqlx::test(migrations = false)]
async fn links_between_files_are_found_released_and_taken_back(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("notes").unwrap();
    let seed = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/field-notes/.");
    let copied = std::process::Command::new("cp").args(["-R", seed]).arg(&folder).status().unwrap();
    assert!(copied.success());
    let source = json!({"kind": "folder", "path": folder, "address": "notes.example"});
    let (_, look) = post(&stage, "api/sites/look", source.clone()).await;
    assert_eq!((&look["problem"], &look["entry"]), (&Value::Null, &json!("https://notes.example/")));
    assert!(look["says"].to_string().contains("1 drafts would be left out"), "{look}");
    let (status, added) = post(&stage, "api/sites", json!({"name": "Notes", "source": source})).await;
    assert_eq!(status, 200, "{added}");
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    assert_eq!(pages["total"], 11, "{pages}");
    let number = |path: &str| {
        let rows = pages["rows"].as_array().unwrap();
        rows.iter().find(|row| row["path"] == path).unwrap()["number"].clone()
    };
    // One file links to a map that is not there.
    let (_, today) = stage.call_site(site, "GET", "/today", None).await.unwrap();
    assert_eq!(today["broken"]["first"][0]["to"], "/kit/map.md");
    let desk = format!("/pages/{}/desk", number("/kit/star-atlas.md"));
    let (_, atlas) = stage.call_site(site, "GET", &desk, None).await.unwrap();
    assert_eq!(atlas["page"]["links_in"], 0, "nothing leads to the atlas");
    let opening =
        &atlas["openings_in"].as_array().unwrap().iter().find(|o| o["page"]["path"] == "/nights/cloud.md").unwrap();
    let body = json!({"hand": strelm_e2e::calls::HAND, "key": uuid::Uuid::new_v4(), "what": take_of(opening)});
    let (status, taken) = stage.call_site(site, "POST", "/decisions", Some(body)).await.unwrap();
    assert_eq!(status, 200, "{taken}");
    let file = folder.join("nights/cloud.md");
    let before = std::fs::read_to_string(&file).unwrap();
    let (_, night) =
        stage.call_site(site, "GET", &format!("/pages/{}/desk", number("/nights/cloud.md")), None).await.unwrap();
    assert!(night["html"].as_str().unwrap().contains("<mark data-tray="), "{}", night["html"]);
    assert_eq!(night["published"], "2026-03-04");

    stage.call_site(site, "POST", "/releases", None).await.unwrap();
    let release = released(&stage, site, "out").await;
    assert_eq!(release["pages"][0]["phase"], "out", "{release}");
    let after = std::fs::read_to_string(&file).unwrap();
    assert_eq!(after.replace("[star atlas](../kit/star-atlas.md)", "star atlas"), before, "nothing else is touched");
    let (_, atlas) = stage.call_site(site, "GET", &desk, None).await.unwrap();
    assert_eq!((&atlas["page"]["links_in"], &atlas["page"]["planned_in"]), (&json!(1), &json!(0)));

    // The author goes on writing; the link is taken out all the same.
    std::fs::write(&file, after.replace("What went wrong", "What else went wrong")).unwrap();
    let back = format!("/releases/{}/take-back", release["release"]);
    stage.call_site(site, "POST", &back, None).await.unwrap();
    released(&stage, site, "taken_back").await;
    assert_eq!(std::fs::read_to_string(&file).unwrap(), before.replace("What went wrong", "What else went wrong"));
    stage.strike().await;
}

/// A quote that is not closed makes an address of half a page; a file in two encodings is read and never written.
#[sqlx::test(migrations = false)]
async fn torn_files_are_read_and_can_be_linked_to(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("torn").unwrap();
    let half_a_page = "words ".repeat(600);
    let home = format!("<title>Home</title><p>Our star atlas shows it. <a href='/gone {half_a_page}'>gone</a></p>");
    std::fs::create_dir_all(&folder).unwrap();
    std::fs::write(folder.join("index.html"), &home).unwrap();
    std::fs::write(folder.join("atlas.html"), b"<meta charset=utf-8><title>Star atlas</title><p>caf\xe9 \xc3\xa9</p>")
        .unwrap();
    let source = json!({"kind": "folder", "path": folder, "address": "torn.example"});
    let (status, added) = post(&stage, "api/sites", json!({"name": "Torn", "source": source})).await;
    assert_eq!(status, 200, "{added}");
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let (_, readings) = stage.call_site(site, "GET", "/readings", None).await.unwrap();
    assert_eq!((&readings[0]["phase"], &readings[0]["pages"]), (&json!("done"), &json!(2)), "{readings}");
    assert!(readings[0]["message"].to_string().contains("2000 bytes"), "{readings}");

    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let rows = pages["rows"].as_array().unwrap();
    let index = rows.iter().find(|row| row["path"] != "/atlas.html").unwrap();
    let (_, desk) = stage.call_site(site, "GET", &format!("/pages/{}/desk", index["number"]), None).await.unwrap();
    let opening = &desk["openings_out"][0];
    let body = json!({"hand": strelm_e2e::calls::HAND, "key": uuid::Uuid::new_v4(), "what": take_of(opening)});
    let (status, taken) = stage.call_site(site, "POST", "/decisions", Some(body)).await.unwrap();
    assert_eq!(status, 200, "{taken}");
    stage.call_site(site, "POST", "/releases", None).await.unwrap();
    let release = released(&stage, site, "out").await;
    assert_eq!(release["pages"][0]["phase"], "out", "{release}");
    let after = std::fs::read_to_string(folder.join("index.html")).unwrap();
    assert_eq!(after, home.replace("star atlas", "<a href=\"atlas.html\">star atlas</a>"));
    stage.strike().await;
}
