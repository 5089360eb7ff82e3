//! Folders that nobody prepared: small manuals from Debian's packages, which the set-up of the tests fetches.

use std::path::{Path, PathBuf};

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};

fn package(path: &str) -> PathBuf {
    let at = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../.strelm/real/sites").join(path);
    assert!(at.exists(), "`cargo xtask test` fetches {}", at.display());
    at
}

/// Whether the set-up could not fetch the manuals, as it said.
fn are_left_out() -> bool {
    std::env::var_os("STRELM_WITHOUT_MANUALS").is_some()
}

fn copy(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).unwrap();
    for entry in std::fs::read_dir(from).unwrap().flatten() {
        let path = entry.path();
        match path.metadata() {
            Ok(known) if known.is_dir() => copy(&path, &to.join(entry.file_name())),
            Ok(_) => drop(std::fs::copy(&path, to.join(entry.file_name())).unwrap()),
            // A link to what another package holds.
            Err(_) => {}
        }
    }
}

/// Reads a package's folder in; gives the site.
async fn read(stage: &Stage, name: &str, path: &str) -> i32 {
    let folder = stage.folder(name).unwrap();
    copy(&package(path), &folder);
    let source = json!({"kind": "folder", "path": folder.display().to_string(), "writes": false});
    let body = json!({"name": name, "source": source});
    let answer = http().unwrap().post(stage.address("api/sites")).json(&body).send().await.unwrap();
    let site: Value = answer.json().await.unwrap();
    let site = i32::try_from(site["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    site
}

#[sqlx::test(migrations = false)]
async fn manuals_of_four_makers_are_read_rightly(_: PgPoolOptions, options: PgConnectOptions) {
    if are_left_out() {
        return;
    }
    let stage = Stage::set(options).await.unwrap();
    for (name, path, least, form, alike) in [
        ("policy", "debian-policy/usr/share/doc/debian-policy/policy.html", 20, "another-page.html", &[][..]),
        (
            "aptitude",
            "aptitude-doc-ja/usr/share/doc/aptitude/html/ja",
            80,
            "another-page.html",
            &["Long Description"][..],
        ),
        ("npm", "npm/usr/share/doc/npm", 60, "/part/another-page", &[][..]),
        ("node", "nodejs-doc/usr/share/doc/nodejs/api", 60, "another-page.html", &[][..]),
    ] {
        let site = read(&stage, name, path).await;
        let get = async |path: &str| stage.call_site(site, "GET", path, None).await.unwrap().1;
        let rows = get("/pages?limit=500").await;
        let pages: Vec<&Value> = rows["rows"].as_array().unwrap().iter().filter(|row| row["kind"] != "file").collect();
        assert!(pages.len() >= least, "{name} has {} pages", pages.len());
        assert_eq!(get("/settings").await["link_example"], form, "{name}");
        let mut titles: Vec<_> = pages.iter().map(|row| row["title"].as_str().unwrap()).collect();
        titles.sort_unstable();
        let repeated = titles.chunk_by(|a, b| a == b).filter(|same| same.len() > 3).map(|same| same[0]);
        assert_eq!(repeated.collect::<Vec<_>>(), alike, "titles of {name}");
        // The largest is not waited for.
        if name != "node" {
            while get("").await["openings_waiting"] != 0 {
                tokio::time::sleep(std::time::Duration::from_millis(100)).await;
            }
            let rows = get("/pages?limit=500").await;
            let openings = rows["rows"].as_array().unwrap().iter().map(|row| row["openings_out"].as_u64().unwrap());
            let openings = openings.sum::<u64>() as usize;
            assert!(openings > pages.len() / 2, "{openings} openings on {name}");
        }
        // The site has one way out, whatever it is: nothing of it can be written to.
        assert_eq!(get("").await["way"], "handed_over");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_desk_of_a_real_page_shows_its_text_and_folds_the_rest(_: PgPoolOptions, options: PgConnectOptions) {
    if are_left_out() {
        return;
    }
    let stage = Stage::set(options).await.unwrap();
    let site = read(&stage, "policy", "debian-policy/usr/share/doc/debian-policy/policy.html").await;
    let browser = Browser::start().await.unwrap();
    let number = stage.page_of(site, "/ch-scope.html").await.unwrap()["number"].clone();
    browser.client.goto(&stage.address(&format!("{site}/pages/{number}"))).await.unwrap();
    browser.wait_for("h1", "About this manual").await.unwrap();
    let fold = browser.wait_for("button[aria-expanded=false]", "before the text").await.unwrap();
    assert!(!browser.find_now(".reader :not([hidden]) > a", "index").await.unwrap());
    fold.click().await.unwrap();
    browser.wait_for("button[aria-expanded=true]", "before the text").await.unwrap();
    let complaints = browser.complaints().await.unwrap();
    assert!(complaints.is_empty(), "{complaints:#?}");
    browser.end().await.unwrap();
    stage.strike().await;
}
