//! Files that programs and people outside of Strelm read.

use std::io::{Cursor, Read};

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};
use strelm_formats::sitemap::{self, Sitemap};

async fn file(stage: &Stage, path: &str) -> (u16, String, Vec<u8>) {
    let address = stage.address(&format!("api/sites/{}{path}", stage.site.0));
    let answer = http().unwrap().get(address).send().await.unwrap();
    let name = answer.headers().get("content-disposition").map(|name| name.to_str().unwrap().to_owned());
    (answer.status().as_u16(), name.unwrap_or_default(), answer.bytes().await.unwrap().to_vec())
}

#[sqlx::test(migrations = false)]
async fn pages_are_saved_for_programs_too(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let pages = stage.get("/pages").await.unwrap();
    let total = usize::try_from(pages["total"].as_u64().unwrap()).unwrap();

    let (status, name, rows) = file(&stage, "/pages/export?format=jsonl&columns=title,words,depth").await;
    assert!(status == 200 && name.contains("pages.jsonl"), "{name}");
    let rows = String::from_utf8(rows).unwrap();
    let rows: Vec<Value> = rows.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(rows.len(), total);
    assert!(rows.iter().all(|row| row["Title"].is_string() && row["Words"].is_u64()), "{rows:?}");

    let (_, name, text) = file(&stage, "/pages/export?format=sitemap&columns=title&only=orphans").await;
    assert!(name.contains("sitemap.xml"));
    let Ok(Sitemap::Pages(listed)) = sitemap::read(&String::from_utf8(text).unwrap()) else { panic!("no sitemap") };
    assert_eq!(listed.len(), 9);

    let (_, name, text) = file(&stage, "/pages/export?format=graphml&columns=title").await;
    assert!(name.contains("links.graphml"));
    let text = String::from_utf8(text).unwrap();
    assert_eq!(text.matches("<node ").count(), total);
    // Each page that another leads to counts it among its links in.
    let links_in: u64 = pages["rows"].as_array().unwrap().iter().map(|row| row["links_in"].as_u64().unwrap()).sum();
    assert_eq!(text.matches("<edge ").count() as u64, links_in);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_the_tray_would_change_is_saved_as_a_diff_and_as_pages(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let (status, _, _) = file(&stage, "/tray/export?format=diff").await;
    assert_eq!(status, 409, "there is nothing to save");
    let (torch, source) = ("/guides/red-torch/", "/guides/dark-adaptation/");
    stage.take(torch, source).await.unwrap();
    let today = stage.get("/today").await.unwrap();
    let repair = today["broken"]["first"][0]["repair"].clone();
    let what = json!({"kind": "repair", "source": repair["source"], "version": repair["version"],
        "address": repair["address"], "fragment": null, "target": null});
    assert_eq!(stage.decide(what).await.unwrap().0, 200);

    let (status, name, diff) = file(&stage, "/tray/export?format=diff").await;
    let diff = String::from_utf8(diff).unwrap();
    assert!(status == 200 && name.contains("changes.diff"), "{name}");
    assert!(diff.contains("+++ b/guides/dark-adaptation/index.html"), "{diff}");
    let added = diff.lines().filter(|line| line.starts_with('+') && !line.starts_with("+++"));
    let removed = diff.lines().filter(|line| line.starts_with('-') && !line.starts_with("---"));
    assert_eq!((added.clone().count(), removed.count()), (2, 2), "{diff}");
    assert!(added.clone().any(|line| line.contains("<a href=\"/guides/red-torch/\">")), "{diff}");

    let (_, _, packed) = file(&stage, "/tray/export?format=zip").await;
    let mut archive = zip::ZipArchive::new(Cursor::new(packed)).unwrap();
    assert_eq!(archive.len(), 2);
    let mut page = String::new();
    archive.by_name("guides/dark-adaptation/index.html").unwrap().read_to_string(&mut page).unwrap();
    let live = stage.live_source(source).await.unwrap();
    assert_ne!(page, live);
    stage.release().await.unwrap();
    assert_eq!(stage.live_source(source).await.unwrap(), page, "what was saved is what goes out");
    stage.strike().await;
}
