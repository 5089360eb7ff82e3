//! Failure is never absence: what cannot be read stays as it was known, is told with its reason, and a reading that would
//! take off too much of a site asks first.

use std::path::Path;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};
use strelm_store::{SiteId, reading};

fn write(folder: &Path, name: &str, text: &str) {
    std::fs::write(folder.join(name), text).unwrap();
}

fn page(title: &str, links: &str) -> String {
    format!("---\ntitle: {title}\n---\n# {title}\n\nSee {links}.\n")
}

struct Notes<'s> {
    stage: &'s Stage,
    site: i32,
    folder: std::path::PathBuf,
}

impl<'s> Notes<'s> {
    /// A folder of ten pages that lead to each other.
    async fn read_in(stage: &'s Stage) -> Self {
        let folder = stage.folder("notes").unwrap();
        for number in 0..9 {
            write(&folder, &format!("note-{number}.md"), &page(&format!("Note {number}"), "[home](index.md)"));
        }
        let all: String = (0..9).map(|number| format!("[{number}](note-{number}.md) ")).collect();
        write(&folder, "index.md", &page("Home", &all));
        let source = json!({"kind": "folder", "path": folder, "address": "notes.example"});
        let body = json!({"name": "Notes", "source": source});
        let added = http().unwrap().post(stage.address("api/sites")).json(&body).send().await.unwrap();
        let added: Value = added.error_for_status().unwrap().json().await.unwrap();
        let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
        stage.wait_until_read(site).await.unwrap();
        Self { stage, site, folder }
    }

    async fn get(&self, path: &str) -> Value {
        let (status, body) = self.stage.call_site(self.site, "GET", path, None).await.unwrap();
        assert_eq!(status, 200, "{path}: {body}");
        body
    }

    /// Reads the folder again; gives the reading once it stands still.
    async fn read(&self) -> Value {
        let (status, _) = self.stage.call_site(self.site, "POST", "/readings", None).await.unwrap();
        assert_eq!(status, 202);
        self.stands_still().await
    }

    async fn stands_still(&self) -> Value {
        for _ in 0..400 {
            let latest = self.get("/readings").await[0].clone();
            if ["done", "failed", "asking", "stopped"].iter().any(|phase| latest["phase"] == *phase) {
                return latest;
            }
            tokio::time::sleep(std::time::Duration::from_millis(25)).await;
        }
        panic!("the reading does not end");
    }

    async fn pages(&self) -> usize {
        usize::try_from(self.get("").await["pages"].as_u64().unwrap()).unwrap()
    }

    async fn broken(&self) -> u64 {
        self.get("/today").await["broken"]["links"].as_u64().unwrap()
    }

    async fn answer(&self, reading: &Value, take_off: bool) -> u16 {
        let path = format!("/readings/{}/lost-pages", reading["reading"]);
        let body = json!({"take_off": take_off});
        self.stage.call_site(self.site, "POST", &path, Some(body)).await.unwrap().0
    }
}

#[sqlx::test(migrations = false)]
async fn files_that_cannot_be_read_stay_as_they_were_known(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let notes = Notes::read_in(&stage).await;
    assert_eq!((notes.pages().await, notes.broken().await), (10, 0));
    // Broken front matter, a link that leads in a circle, a link that leads nowhere, and a file that is far too large.
    write(&notes.folder, "note-0.md", "---\ntitle: [\n---\nx\n");
    for (name, to) in [("note-1.md", "note-1.md"), ("note-2.md", "gone.md")] {
        std::fs::remove_file(notes.folder.join(name)).unwrap();
        std::os::unix::fs::symlink(notes.folder.join(to), notes.folder.join(name)).unwrap();
    }
    let large = std::fs::File::create(notes.folder.join("note-3.md")).unwrap();
    large.set_len(33 << 20).unwrap();
    let reading = notes.read().await;
    assert_eq!((&reading["phase"], &reading["unread"], &reading["vanished"]), (&json!("done"), &json!(4), &json!(0)));
    assert_eq!((notes.pages().await, notes.broken().await), (10, 0), "what was known of them is kept");
    let told = notes.get(&format!("/readings/{}/told?outcome=failed", reading["reading"])).await;
    let why = |path: &str| {
        let row = told.as_array().unwrap().iter().find(|row| row["address"].as_str().unwrap().ends_with(path)).unwrap();
        row["note"].as_str().unwrap().to_owned()
    };
    assert!(why("note-0.md").contains("front matter cannot be read"), "{told}");
    assert!(why("note-1.md").contains("leads nowhere") && why("note-2.md").contains("leads nowhere"), "{told}");
    assert!(why("note-3.md").contains("larger than 32 MB"), "{told}");
    assert_eq!(notes.get("/today").await["reading"]["unread"], 4, "Today tells it");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn an_empty_or_missing_folder_takes_nothing_off(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let notes = Notes::read_in(&stage).await;
    let aside = notes.folder.with_file_name("aside");
    std::fs::rename(&notes.folder, &aside).unwrap();
    let reading = notes.read().await;
    let message = reading["message"].as_str().unwrap();
    assert!(reading["phase"] == "failed" && message.ends_with("not mounted?"), "{reading}");
    assert!(!message.contains("allowed"), "{reading}");
    std::fs::create_dir(&notes.folder).unwrap();
    let reading = notes.read().await;
    assert!(reading["phase"] == "failed" && reading["message"].as_str().unwrap().contains("is empty"), "{reading}");
    assert_eq!((notes.pages().await, notes.broken().await), (10, 0));
    std::fs::remove_dir(&notes.folder).unwrap();
    std::fs::rename(&aside, &notes.folder).unwrap();
    assert_eq!(notes.read().await["phase"], "done");
    assert_eq!(notes.pages().await, 10);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_reading_that_would_take_off_too_much_asks_first(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let notes = Notes::read_in(&stage).await;
    // One page of ten goes without a question.
    std::fs::remove_file(notes.folder.join("note-8.md")).unwrap();
    assert_eq!(notes.read().await["phase"], "done");
    assert_eq!((notes.pages().await, notes.broken().await), (9, 1));
    for number in 0..4 {
        std::fs::remove_file(notes.folder.join(format!("note-{number}.md"))).unwrap();
    }
    let asking = notes.read().await;
    assert_eq!(asking["phase"], "asking");
    assert!(asking["message"].as_str().unwrap().starts_with("4 of 9 pages were not found"), "{asking}");
    assert_eq!((notes.pages().await, notes.broken().await), (9, 1), "nothing is taken off");
    // They are kept, and the next reading asks again.
    assert_eq!(notes.answer(&asking, false).await, 204);
    assert_eq!(notes.stands_still().await["phase"], "done");
    assert_eq!(notes.answer(&asking, true).await, 409, "it asks no more");
    assert_eq!(notes.pages().await, 9);
    let asking = notes.read().await;
    assert_eq!(asking["phase"], "asking");
    // In the browser, where both are a press away.
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/today", notes.site))).await.unwrap();
    browser.wait_for("[data-testid=line]", "4 of 9 pages were not found").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    browser.wait_for("[data-testid=line] button", "Take them off").await.unwrap().click().await.unwrap();
    browser.wait_until_gone("[data-testid=line]", "were not found").await.unwrap();
    browser.end().await.unwrap();
    assert_eq!(notes.stands_still().await["phase"], "done");
    assert_eq!((notes.pages().await, notes.broken().await), (5, 5));
    let states = reading::all(&stage.pool, SiteId(notes.site), 10).await.unwrap();
    assert!(states.iter().all(|reading| reading.state.as_str() == "done"), "{states:?}");
    stage.strike().await;
}
