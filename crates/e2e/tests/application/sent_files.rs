//! Sites made of files that an editor sends: an archive of pages, and a list of addresses.

use std::io::{Cursor, Write};
use std::path::Path;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};

const NOTES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/field-notes");

/// The demo's field notes in a ZIP archive, as somebody packs a folder.
fn packed() -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    add_folder(&mut writer, Path::new(NOTES), "field-notes");
    writer.finish().unwrap().into_inner()
}

fn add_folder(writer: &mut zip::ZipWriter<Cursor<Vec<u8>>>, folder: &Path, name: &str) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let name = format!("{name}/{}", entry.file_name().to_string_lossy());
        if entry.path().is_dir() {
            add_folder(writer, &entry.path(), &name);
            continue;
        }
        writer.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        writer.write_all(&std::fs::read(entry.path()).unwrap()).unwrap();
    }
}

async fn send(stage: &Stage, name: &str, bytes: Vec<u8>) -> (u16, Value) {
    let address = stage.address(&format!("api/uploads?name={name}"));
    let answer = http().unwrap().post(address).body(bytes).send().await.unwrap();
    (answer.status().as_u16(), answer.json().await.unwrap_or(Value::Null))
}

async fn post(stage: &Stage, path: &str, body: Value) -> (u16, Value) {
    let answer = http().unwrap().post(stage.address(path)).json(&body).send().await.unwrap();
    (answer.status().as_u16(), answer.json().await.unwrap_or(Value::Null))
}

fn uploads_left(stage: &Stage) -> usize {
    let uploads = stage.folder("uploads").unwrap();
    std::fs::read_dir(uploads).unwrap().count()
}

#[sqlx::test(migrations = false)]
async fn a_site_is_added_from_an_archive_in_the_browser(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let file = stage.folder("sent").unwrap().join("notes 2026.zip");
    std::fs::write(&file, packed()).unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address("add")).await.unwrap();
    browser.wait_for("label", "A file with its pages in it").await.unwrap().click().await.unwrap();
    let input = browser.wait_for("input[type=file]", "").await.unwrap();
    input.send_keys(file.to_str().unwrap()).await.unwrap();
    browser.wait_for("[data-testid=look]", "pages would be read").await.unwrap();
    browser.wait_for("[data-testid=look]", "drafts would be left out").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    browser.wait_for("button", "Add and read it").await.unwrap().click().await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    browser.wait_for("header", "pages").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), Vec::<String>::new());
    browser.end().await.unwrap();

    // The site is gone with the only copy of its files.
    assert_eq!(uploads_left(&stage), 1);
    let (_, sites) = {
        let answer = http().unwrap().get(stage.address("api/sites")).send().await.unwrap();
        (answer.status(), answer.json::<Value>().await.unwrap())
    };
    let site = sites
        .as_array()
        .unwrap()
        .iter()
        .find(|site| site["name"] == "field-notes")
        .unwrap_or_else(|| panic!("{sites}"));
    let address = stage.address(&format!("api/sites/{}?name=field-notes", site["id"]));
    let answer = http().unwrap().delete(address).send().await.unwrap();
    assert_eq!(answer.status(), 204);
    assert_eq!(uploads_left(&stage), 0);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_site_is_added_from_a_list_in_the_browser(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let entry = stage.live.entry();
    // As a stranger to the stage's own site, whose entry page is the root.
    let list =
        format!("Wanted words;Where;What\nred light;{entry}guides/red-torch/;Torches\n;{entry}about/;\n;nonsense;\n");
    let file = stage.folder("sent").unwrap().join("pages.csv");
    std::fs::write(&file, list).unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address("add")).await.unwrap();
    browser.wait_for("label", "by a list of its pages").await.unwrap().click().await.unwrap();
    let input = browser.wait_for("input[type=file]", "").await.unwrap();
    input.send_keys(file.to_str().unwrap()).await.unwrap();
    browser.wait_for("section[aria-label='Columns of the list']", "3 rows").await.unwrap();
    // What was not understood is corrected.
    let phrases = browser.wait_for("select[aria-label*='Wanted words']", "").await.unwrap();
    phrases.select_by_value("phrases").await.unwrap();
    browser.wait_for("[data-testid=look]", "2 addresses of 127.0.0.1 are listed").await.unwrap();
    browser.wait_for("[data-testid=look]", "row 4 first").await.unwrap();
    browser.wait_for("[data-testid=look]", "This site is there already").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    let other = browser.wait_for("input[inputmode=url]", "").await.unwrap();
    other.send_keys(&format!("{entry}guides/")).await.unwrap();
    browser.wait_for("[data-testid=look]", "1 titles and phrases").await.unwrap();
    browser.wait_until_gone("[data-testid=look]", "This site is there already").await.unwrap();
    browser.wait_for("button", "Add and read it").await.unwrap().click().await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), Vec::<String>::new());
    browser.end().await.unwrap();

    // What was listed is read, and what it leads to.
    let site = stage.site.0 + 1;
    for _ in 0..400 {
        let (_, status) = stage.call_site(site, "GET", "", None).await.unwrap();
        if status["reading"]["phase"] == "done" {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    let (_, pages) = stage.call_site(site, "GET", "/pages", None).await.unwrap();
    let paths: Vec<_> = pages["rows"].as_array().unwrap().iter().map(|row| row["path"].as_str().unwrap()).collect();
    assert!(paths.contains(&"/guides/red-torch/") && paths.contains(&"/about/") && paths.len() > 60, "{paths:?}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn files_that_cannot_be_used_say_why_and_leave_nothing(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let mut evil = zip::ZipWriter::new(Cursor::new(Vec::new()));
    evil.start_file("../../evil.html", zip::write::SimpleFileOptions::default()).unwrap();
    evil.write_all(b"x").unwrap();
    let evil = evil.finish().unwrap().into_inner();
    let mut bomb = zip::ZipWriter::new(Cursor::new(Vec::new()));
    bomb.start_file("bomb.html", zip::write::SimpleFileOptions::default()).unwrap();
    bomb.write_all(&vec![b'x'; 40 << 20]).unwrap();
    let bomb = bomb.finish().unwrap().into_inner();
    let cut = packed()[..600].to_vec();
    for (name, bytes, words) in [
        ("evil.zip", evil, "leads out of it"),
        ("bomb.zip", bomb, "larger than 32 MB when it is unpacked"),
        ("cut.zip", cut, "The archive is damaged"),
        ("empty.csv", Vec::new(), "The file is empty"),
        ("page.html", b"<html></html>".to_vec(), "neither an archive"),
        ("line.csv", vec![b'x'; 100_000], "is this a list?"),
        ("large.zip", vec![b'x'; 21 << 20], "larger than 20 MB"),
    ] {
        let (status, problem) = send(&stage, name, bytes).await;
        let message = problem["message"].as_str().unwrap_or_default();
        assert!(status == 422 && message.contains(words), "{name}: {status} {problem}");
        assert_eq!(uploads_left(&stage), 0, "{name}");
    }
    let gone = json!({"kind": "archive", "upload": "00000000-0000-4000-8000-000000000000"});
    let (_, look) = post(&stage, "api/sites/look", gone).await;
    assert_eq!(look["problem"]["field"], "upload", "{look}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn files_stay_as_long_as_one_site_is_made_of_them(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let (status, sent) = send(&stage, "notes.zip", packed()).await;
    assert_eq!(status, 200, "{sent}");
    let add = async |name: &str| {
        let address = format!("{name}.example");
        let source = json!({"kind": "archive", "upload": sent["upload"], "address": address});
        let (status, added) = post(&stage, "api/sites", json!({"name": name, "source": source})).await;
        assert_eq!(status, 200, "{added}");
        let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
        stage.wait_until_read(site).await.unwrap();
        site
    };
    let (one, other) = (add("one").await, add("other").await);
    let delete = async |site: i32, name: &str| {
        let address = stage.address(&format!("api/sites/{site}?name={name}"));
        http().unwrap().delete(address).send().await.unwrap().status().as_u16()
    };
    assert_eq!((delete(one, "one").await, uploads_left(&stage)), (204, 1), "the other site is made of it, too");
    stage.call_site(other, "POST", "/readings", None).await.unwrap();
    tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    stage.wait_until_read(other).await.unwrap();
    let (_, pages) = stage.call_site(other, "GET", "/pages", None).await.unwrap();
    assert_eq!(pages["total"], 11);
    assert_eq!((delete(other, "other").await, uploads_left(&stage)), (204, 0));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_stands_twice_in_a_file_is_read_once_and_told(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let add = async |name: &str, bytes: Vec<u8>| {
        let (status, sent) = send(&stage, name, bytes).await;
        assert_eq!(status, 200, "{sent}");
        let source = json!({"kind": "archive", "upload": sent["upload"], "address": format!("{name}.example")});
        let (status, added) = post(&stage, "api/sites", json!({"name": name, "source": source})).await;
        assert_eq!(status, 200, "{added}");
        let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
        stage.wait_until_read(site).await.unwrap();
        let (_, pages) = stage.call_site(site, "GET", "/pages", None).await.unwrap();
        let titles: Vec<_> = pages["rows"].as_array().unwrap().iter().map(|row| row["title"].clone()).collect();
        let (_, readings) = stage.call_site(site, "GET", "/readings", None).await.unwrap();
        (titles, readings[0].clone())
    };
    let line = |path: &str, title: &str| json!({"url": path, "html": "<p>Some words.", "title": title}).to_string();
    let lines = [line("/a", "First"), line("/b", "Other"), line("/a", "Second")].join("\n");
    let (mut titles, reading) = add("lines.jsonl", lines.into_bytes()).await;
    titles.sort_by_key(|title| title.to_string());
    assert_eq!(titles, ["Other", "Second"]);
    let told = "One address stands more than once in the file, such as /a. The last text of each counts.";
    assert_eq!(reading["message"], told, "{reading}");
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, text) in [("README.md", "# Read me"), ("index.md", "# Home"), ("guide.md", "# Guide")] {
        writer.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        writer.write_all(text.as_bytes()).unwrap();
    }
    let (mut titles, reading) = add("files.zip", writer.finish().unwrap().into_inner()).await;
    titles.sort_by_key(|title| title.to_string());
    assert_eq!(titles, ["Guide", "Home"], "{reading}");
    assert_eq!(reading["phase"], "done", "{reading}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_worker_removes_what_was_sent_and_never_used(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::set(options).await.unwrap();
    let uploads = stage.folder("uploads").unwrap();
    let two_days_ago = std::time::SystemTime::now() - std::time::Duration::from_secs(2 * 24 * 3600);
    for name in ["old", "new"] {
        std::fs::create_dir(uploads.join(name)).unwrap();
    }
    std::fs::File::open(uploads.join("old")).unwrap().set_modified(two_days_ago).unwrap();
    stage.stop_worker();
    stage.start_worker().unwrap();
    for _ in 0..200 {
        if !uploads.join("old").exists() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(25)).await;
    }
    assert!(!uploads.join("old").exists() && uploads.join("new").exists());
    stage.strike().await;
}
