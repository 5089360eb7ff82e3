//! A part of a site, pages that are none, and where readers start.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::Stage;

async fn paths(stage: &Stage, site: i32) -> Vec<String> {
    let (_, rows) = stage.call_site(site, "GET", "/pages?sort=address&limit=500", None).await.unwrap();
    rows["rows"].as_array().unwrap().iter().map(|row| row["path"].as_str().unwrap().to_owned()).collect()
}

fn settings_with(settings: &Value, within: &[&str], without: &[&str]) -> Value {
    let mut changed = settings.clone();
    for gone in ["entry", "folder", "has_token", "link_example", "named_micropub"] {
        changed.as_object_mut().unwrap().remove(gone);
    }
    changed["part"] = json!({"within": within, "without": without});
    changed
}

#[sqlx::test(migrations = false)]
async fn a_part_of_a_site_is_read_and_links_to_the_rest_are_not_broken(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let all = paths(&stage, stage.site.0).await;
    let broken = stage.get("/today").await.unwrap()["broken"]["links"].as_u64().unwrap();
    let settings = stage.get("/settings").await.unwrap();
    let refused = settings_with(&settings, &["guides"], &[]);
    let (status, problem) = stage.call("PUT", "/settings", Some(refused)).await.unwrap();
    assert_eq!(status, 422, "{problem}");
    let changed = settings_with(&settings, &["/guides/"], &["/guides/*adaptation"]);
    assert_eq!(stage.call("PUT", "/settings", Some(changed)).await.unwrap().0, 204);
    stage.read_again().await.unwrap();
    let is_wanted =
        |path: &&String| path.as_str() == "/" || (path.starts_with("/guides/") && !path.contains("adaptation"));
    let expected: Vec<String> = all.iter().filter(is_wanted).cloned().collect();
    assert!(expected.len() > 5 && expected.len() < all.len() / 2);
    assert_eq!(paths(&stage, stage.site.0).await, expected);
    let now = stage.get("/today").await.unwrap()["broken"]["links"].as_u64().unwrap();
    assert!(now <= broken, "{now} and not {broken}: what is not read is not broken");
    // The whole site comes back.
    let changed = settings_with(&settings, &[], &[]);
    assert_eq!(stage.call("PUT", "/settings", Some(changed)).await.unwrap().0, 204);
    stage.read_again().await.unwrap();
    assert_eq!(paths(&stage, stage.site.0).await, all);
    assert_eq!(stage.get("/today").await.unwrap()["broken"]["links"], broken);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_folder_without_an_index_says_where_readers_may_start(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("manual").unwrap();
    let link = |name: &str| format!("- [{name}](/commands/{name})\n");
    let names = ["ls", "ci", "run", "test", "pack", "view"];
    std::fs::create_dir_all(folder.join("commands")).unwrap();
    for name in names {
        std::fs::write(folder.join(format!("commands/{name}.md")), format!("# {name}\n\nAll of *{name}*.\n")).unwrap();
    }
    let contents = format!("# Commands\n\n{}", names.map(link).concat());
    std::fs::write(folder.join("contents.md"), contents).unwrap();
    std::fs::write(folder.join("style.css"), "p {}").unwrap();
    std::fs::write(folder.join("listing.html"), "<title>Index of /commands</title><a href=commands/ls.md>ls.md</a>")
        .unwrap();
    let body =
        json!({"name": "Manual", "source": {"kind": "folder", "path": folder.display().to_string(), "writes": false}});
    let answer = strelm_e2e::stage::http().unwrap().post(stage.address("api/sites")).json(&body).send().await.unwrap();
    let site: Value = answer.json().await.unwrap();
    let site = i32::try_from(site["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    assert_eq!(paths(&stage, site).await.len(), 7, "neither styles nor listings are pages");
    let call =
        async |method: &str, path: &str, body: Option<Value>| stage.call_site(site, method, path, body).await.unwrap();
    assert_eq!(call("GET", "/settings", None).await.1["link_example"], "/part/another-page");
    let today = call("GET", "/today", None).await.1;
    let better = &today["better_entry"];
    assert_eq!(
        (&better["page"]["path"], &better["reaches"], &better["of"]),
        (&json!("/contents.md"), &json!(7), &json!(7))
    );
    let page = better["page"]["number"].clone();
    assert_eq!(call("POST", "/entries", Some(json!({"page": page}))).await.0, 204);
    assert_eq!(call("POST", "/entries", Some(json!({"page": page}))).await.0, 409);
    let status = call("GET", "", None).await.1;
    assert_eq!((&status["unreachable"], &status["way"]), (&json!(0), &json!("handed_over")));
    assert_eq!(call("GET", "/today", None).await.1["better_entry"], Value::Null);
    stage.strike().await;
}
