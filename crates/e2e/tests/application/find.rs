//! Where the site says something, what its links say and where they lead, with the mending in place.

use std::time::Duration;

use fantoccini::key::Key;
use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};

/// All that waits in the tray, as it is told.
async fn tray(stage: &Stage) -> String {
    stage.get("/tray").await.unwrap().to_string()
}

/// What is decided is shown before the server has it.
async fn until_in_tray(stage: &Stage, said: &str) {
    for _ in 0..400 {
        if tray(stage).await.contains(said) {
            return;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    panic!("the tray says nothing of {said}");
}

async fn asked(stage: &Stage, path: &str, body: Value) -> Value {
    let (status, told) = stage.call("POST", path, Some(body)).await.unwrap();
    assert_eq!(status, 200, "{told}");
    told
}

async fn press(browser: &Browser, css: &str, text: &str) {
    browser.wait_for(css, text).await.unwrap().click().await.unwrap();
}

#[sqlx::test(migrations = false)]
async fn phrases_are_found_while_one_types_and_linked_where_one_chooses(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    stage.wait_for_openings().await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/today", stage.site.0))).await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    // By keyboard alone: G and M go there, what is typed is looked for.
    browser.press("gm").await.unwrap();
    browser.wait_for("h1", "Phrases").await.unwrap();
    browser.wait_for("main", "Where does the site say it?").await.unwrap();
    let typed = format!("averted vision{}moon", Key::Enter);
    browser.client.active_element().await.unwrap().send_keys(&typed).await.unwrap();
    browser.wait_for("table[aria-label='Mentions of each phrase'] td", "averted vision").await.unwrap();
    let found = asked(&stage, "/mentions?limit=50", json!({ "phrases": ["averted vision", "moon"] })).await;
    let (mentions, pages) = (found["mentions"].as_u64().unwrap(), found["pages"].as_u64().unwrap());
    browser.wait_for("[role=status]", &format!("{mentions} mentions on {pages} pages")).await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    // One of the phrases alone, without a link; the best place of each page leads to the page that it names.
    press(&browser, "table[aria-label='Mentions of each phrase'] button", "averted vision").await;
    press(&browser, "button", "Not linked").await;
    let unlinked = json!({ "phrases": ["averted vision", "moon"], "only": 0, "state": "unlinked" });
    let found = asked(&stage, "/mentions?limit=50", unlinked).await;
    let said = format!("{} mentions without a link", found["mentions"]);
    browser.wait_for("[role=status]", &said).await.unwrap();
    press(&browser, "footer button", "The best of each page").await;
    press(&browser, "footer button", "Lead them to").await;
    browser.wait_for("[role=dialog]", "").await.unwrap();
    browser.client.active_element().await.unwrap().send_keys("averted vision").await.unwrap();
    browser.wait_for("[role=option]", "Averted vision").await.unwrap();
    browser.client.active_element().await.unwrap().send_keys(&Key::Enter.to_string()).await.unwrap();
    press(&browser, "footer button", "Take ").await;
    browser.wait_for("[data-testid=mention]", "in the tray").await.unwrap();
    let taken = tray(&stage).await;
    assert!(taken.contains("averted vision"), "{taken}");
    assert_eq!(browser.complaints().await.unwrap(), Vec::<String>::new());
    // One undo takes all of them out again.
    browser.client.goto(&stage.address(&format!("{}/today", stage.site.0))).await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    browser.end().await.unwrap();

    // What cannot be looked for is said in words.
    for (body, why) in [
        (json!({ "phrases": ["…"] }), "no words"),
        (json!({ "phrases": ["("], "expressions": true }), "cannot be read"),
        (json!({ "phrases": ["moon"], "gap": 11 }), "ten other words"),
        (json!({ "phrases": vec!["moon"; 101] }), "at most 100"),
    ] {
        let (status, told) = stage.call("POST", "/mentions", Some(body)).await.unwrap();
        assert!(status == 422 && told.to_string().contains(why), "{told}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn links_of_a_partner_are_swapped_marked_and_taken_off(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    stage.wait_for_openings().await.unwrap();
    let partner =
        asked(&stage, "/anchors/places?limit=200", json!({ "kind": "hosts", "hosts": ["brightglass.example"] })).await;
    let places = partner["places"].as_array().unwrap().clone();
    assert!(places.len() >= 5, "{partner}");
    let path = places[0]["page"]["path"].as_str().unwrap().to_owned();
    let before = stage.live_source(&path).await.unwrap();

    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/destinations", stage.site.0))).await.unwrap();
    press(&browser, "tbody button", "brightglass.example").await;
    browser.wait_for("[aria-label=Links] [role=status]", &format!("{} links in content", places.len())).await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    // All addresses begin otherwise; what comes after stays.
    press(&browser, "[aria-label=Links] footer button", "Lead elsewhere").await;
    let field = browser.wait_for("form label", "What comes in its place").await.unwrap();
    field.click().await.unwrap();
    browser.client.active_element().await.unwrap().send_keys("https://lenses.example/larkmoor/").await.unwrap();
    press(&browser, "form button", "Swap").await;
    browser.wait_for("[data-testid=link-place]", "changed in the tray").await.unwrap();
    until_in_tray(&stage, "lenses.example").await;
    browser.wait_until_gone("[aria-label=Links] footer", "link").await.unwrap();
    assert!(tray(&stage).await.matches("https://lenses.example/larkmoor/").count() >= places.len());
    stage.release().await.unwrap();
    let swapped = stage.live_source(&path).await.unwrap();
    assert_eq!(swapped, before.replace("https://brightglass.example/", "https://lenses.example/larkmoor/"));

    // They say other things, and are taken off in the end.
    stage.read_again().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/destinations", stage.site.0))).await.unwrap();
    press(&browser, "tbody button", "lenses.example").await;
    press(&browser, "[aria-label=Links] footer button", "Say").await;
    press(&browser, "[role=dialog] button", "new tab").await;
    browser.wait_for("[data-testid=link-place]", "changed in the tray").await.unwrap();
    until_in_tray(&stage, "lenses.example").await;
    stage.release().await.unwrap();
    let marked = stage.live_source(&path).await.unwrap();
    assert!(marked.contains("target=\"_blank\"") && marked.contains("noopener"), "{marked}");
    stage.read_again().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/destinations?text=lenses", stage.site.0))).await.unwrap();
    press(&browser, "tbody button", "lenses.example").await;
    press(&browser, "[aria-label=Links] footer button", "Take off").await;
    browser.wait_for("[data-testid=link-place]", "changed in the tray").await.unwrap();
    until_in_tray(&stage, "lenses.example").await;
    stage.release().await.unwrap();
    assert!(!stage.live_source(&path).await.unwrap().contains("lenses.example"));
    assert!(browser.complaints().await.unwrap().is_empty());
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_text_that_says_nothing_is_mended_where_it_stands(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let path = "/guides/collimation/";
    let html = stage.live_source(path).await.unwrap();
    let added = "<p>Whoever wants to know all: <a href=\"/guides/averted-vision/\">read more</a>.</p>";
    stage.change_live_page(path, &format!("{html}{added}")).await.unwrap();
    stage.read_again().await.unwrap();
    stage.wait_for_openings().await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/anchors?fault=says_nothing", stage.site.0))).await.unwrap();
    press(&browser, "tbody button", "Read more").await;
    browser.wait_for("[aria-label=Links] header", "The words say nothing of where they lead.").await.unwrap();
    browser.wait_for("[data-testid=link-place]", "Whoever wants to know all").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    let off = "[data-testid=link-place] button[aria-label^='Take off: read more on Collimation']";
    press(&browser, off, "Take off").await;
    browser.wait_for("[data-testid=tray-figures]", "1 ").await.unwrap();
    stage.release().await.unwrap();
    let after = stage.live_source(path).await.unwrap();
    assert!(after.contains("know all: read more.</p>"), "{after}");
    assert_eq!(browser.complaints().await.unwrap(), Vec::<String>::new());
    browser.end().await.unwrap();

    // Of a single link that cannot be mended, it is said why; of many it is told.
    let (version, mend) =
        ("0".repeat(64), |links: Value| json!({ "kind": "mend", "links": links, "becomes": { "kind": "off" } }));
    let old = json!([{ "source": 1, "version": version, "link": 0 }]);
    let (status, told) = stage.decide(mend(old)).await.unwrap();
    assert!(status == 409 && told.to_string().contains("read anew"), "{told}");
    let (status, _) = stage.decide(mend(json!([]))).await.unwrap();
    assert_eq!(status, 422);
    let swap = json!({ "kind": "swap", "from": "https://a.example/", "to": "nowhere" });
    let old = json!([{ "source": 1, "version": version, "link": 0 }]);
    let (status, told) = stage.decide(json!({ "kind": "mend", "links": old, "becomes": swap })).await.unwrap();
    assert!(status == 422 && told.to_string().contains("https://new.example"), "{told}");
    let none = http().unwrap().get(stage.address("api/sites/999/anchors")).send().await.unwrap();
    assert_eq!(none.status(), 404);
    stage.strike().await;
}
