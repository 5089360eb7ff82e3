//! A site that is read and not written to: what is decided is handed over, put in by hand, and seen by the next reading.

use std::collections::BTreeMap;

use fantoccini::key::Key;
use serde_json::Value;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_core::document::{Document, Quote};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};
use strelm_store::site::{self, Settings, SiteSource};

/// A stage whose site has no editing interface, read in.
async fn read_only(options: PgConnectOptions) -> Stage {
    let stage = Stage::set(options).await.unwrap();
    let settings = Settings::new("Larkmoor Sky Society", SiteSource::Web { micropub: None });
    site::set(&stage.pool, stage.site, &settings).await.unwrap().unwrap();
    stage.read_again().await.unwrap();
    stage
}

/// The rows of the latest worklist.
async fn worklist(stage: &Stage, release: &Value, format: &str) -> Vec<u8> {
    let path = format!("api/sites/{}/releases/{}/worklist?format={format}", stage.site.0, release["release"]);
    let answer = http().unwrap().get(stage.address(&path)).send().await.unwrap().error_for_status().unwrap();
    answer.bytes().await.unwrap().to_vec()
}

fn states(release: &Value) -> BTreeMap<String, String> {
    let pages = release["pages"].as_array().unwrap().iter();
    let links = pages.flat_map(|page| page["links"].as_array().unwrap());
    let text = |value: &Value| value.as_str().unwrap().to_owned();
    links.map(|link| (text(&link["target"]["path"]), text(&link["handed"]))).collect()
}

async fn click(browser: &Browser, css: &str, text: &str) {
    browser.wait_for(css, text).await.unwrap().click().await.unwrap();
}

#[sqlx::test(migrations = false)]
async fn what_is_handed_over_is_put_in_by_hand_and_seen(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = read_only(options).await;
    let browser = Browser::start().await.unwrap();
    assert_eq!(stage.get("").await.unwrap()["way"], "handed_over");

    // 1. Openings in a page as it was crawled; most are taken at once, one on its Desk.
    stage.wait_for_openings().await.unwrap();
    let rows = stage.get("/pages?sort=openings_out&descending=true&limit=1").await.unwrap();
    let desk = &rows["rows"][0];
    let source = desk["path"].as_str().unwrap();
    let address = stage.address(&format!("{}/pages/{}", stage.site.0, desk["number"]));
    browser.client.goto(&address).await.unwrap();
    browser.wait_for("h1", desk["title"].as_str().unwrap()).await.unwrap();
    let before: Vec<Value> = stage.desk(source).await.unwrap()["openings_out"].as_array().unwrap().clone();
    assert!(before.len() >= 4, "{before:#?}");
    browser.press("o").await.unwrap();
    for opening in before.iter().skip(1).take(3) {
        assert_eq!(stage.decide(strelm_e2e::calls::take_of(opening)).await.unwrap().0, 200);
    }
    browser.wait_for("[data-testid=tray-figures]", "3 links on 1 page").await.unwrap();
    browser.press("t").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "4 links on 1 page").await.unwrap();

    // 2. The tray says what happens, and is handed over.
    click(&browser, "section[aria-label=Tray] button", "Review and hand over").await;
    browser.wait_for("#tray-list", "Strelm reads this site and does not write to it").await.unwrap();
    assert!(browser.axe().await.unwrap().is_empty());
    click(&browser, "button", "Hand over 4 links").await;
    browser.wait_for("section[aria-label=Tray]", "4 links handed over").await.unwrap();
    let figures = stage.page(source).await.unwrap();
    assert_eq!(figures["planned_out"], 4, "it counts as planned until it is seen");
    browser.client.goto(&stage.address(&format!("{}/history", stage.site.0))).await.unwrap();
    browser.wait_for("[data-testid=release]", "Put the links in by the list").await.unwrap();
    click(&browser, "[data-testid=release] button", "Get the list").await;
    browser.wait_for("[role=menu] a", "A page to read and print").await.unwrap();
    assert!(browser.axe().await.unwrap().is_empty());
    browser.client.active_element().await.unwrap().send_keys(&Key::Escape.to_string()).await.unwrap();
    browser.wait_until_gone("[role=menu]", "").await.unwrap();

    // 3. The list says where each link goes, in every form.
    let release = stage.release_in(&["out"]).await.unwrap();
    let rows = worklist(&stage, &release, "jsonl").await;
    let rows: Vec<Value> = rows
        .split(|byte| *byte == b'\n')
        .filter(|line| !line.is_empty())
        .map(|line| serde_json::from_slice(line).unwrap())
        .collect();
    assert_eq!(rows.len(), 4);
    for row in &rows {
        assert!(row["Address"].as_str().unwrap().ends_with(source), "{row}");
        let after = row["HTML of the block afterwards"].as_str().unwrap();
        let document = Document::from_html(after);
        assert!(document.links().iter().any(|link| document.anchor(link) == row["Words"]), "{row}");
        assert!(
            document
                .text()
                .as_str()
                .split_whitespace()
                .collect::<Vec<_>>()
                .join(" ")
                .contains(row["Sentence"].as_str().unwrap()),
            "{row}"
        );
    }
    let csv = String::from_utf8(worklist(&stage, &release, "csv").await).unwrap();
    assert_eq!(csv.lines().next().unwrap().trim_start_matches('\u{feff}').split(',').count(), 9);
    assert!(worklist(&stage, &release, "xlsx").await.starts_with(b"PK"));
    let printed = String::from_utf8(worklist(&stage, &release, "html").await).unwrap();
    assert!(printed.matches("<li>").count() == 4, "{printed}");

    // 4. A reading before anything is put in finds nothing yet.
    stage.read_again().await.unwrap();
    let release = stage.release_in(&["out"]).await.unwrap();
    assert!(states(&release).values().all(|state| state == "not_yet"), "{release}");

    // 5. Two are put in as asked, by an editor who writes whole addresses; one with other words; one is left.
    let mut html = stage.live_source(source).await.unwrap();
    let mut expected = BTreeMap::new();
    for (ordinal, row) in rows.iter().enumerate() {
        let target = row["Leads to"].as_str().unwrap();
        let path = target.strip_prefix(stage.live.entry().trim_end_matches('/')).unwrap();
        let path = path.split('#').next().unwrap();
        let words = row["Words"].as_str().unwrap();
        let document = Document::from_html(html.as_str());
        let sentence = row["Sentence"].as_str().unwrap();
        let (before, after) = sentence.split_once(words).unwrap();
        let place = document.find_again(&Quote { before, anchor: words, after }, 0).unwrap();
        let text = document.text();
        let span = |start: usize, end: usize| text.source_start(start).unwrap()..text.source_end(end).unwrap();
        let (range, state) = match ordinal {
            0 | 1 => (span(place.start, place.end), "there"),
            2 => {
                // The last word of the page.
                let end = text.as_str().trim_end().len();
                let start = text.as_str()[..end].rfind(char::is_whitespace).unwrap() + 1;
                (span(start, end), "other_words")
            }
            _ => (0..0, "not_yet"),
        };
        if !range.is_empty() {
            let linked = format!("<a href=\"{target}\">{}</a>", &html[range.clone()]);
            html.replace_range(range, &linked);
        }
        expected.insert(path.to_owned(), state.to_owned());
    }
    stage.change_live_page(source, &html).await.unwrap();
    stage.read_again().await.unwrap();
    let release = stage.release_in(&["out"]).await.unwrap();
    assert_eq!(states(&release), expected);
    browser.wait_for("[data-testid=release]", "3 of 4 links seen on the site").await.unwrap();
    browser.wait_for("[data-testid=handed]", "there with other words").await.unwrap();
    assert_eq!(stage.page(source).await.unwrap()["planned_out"], 1, "what is seen is planned no more");

    // 6. What is left can be withdrawn, and is in the tray again.
    click(&browser, "[data-testid=release] button", "Withdraw").await;
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.wait_for("[data-testid=release] header", "withdrawn").await.unwrap();
    let complaints = browser.complaints().await.unwrap();
    assert!(complaints.is_empty(), "{complaints:#?}");
    browser.end().await.unwrap();
    stage.strike().await;
}
