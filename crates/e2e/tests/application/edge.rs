//! The edge before the demo: what it puts into pages is what the pages themselves would get, and what is handed over is carried
//! and taken back.

use std::collections::BTreeMap;
use std::time::{Duration, Instant};

use fantoccini::key::Key;
use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{EdgeProcess, Stage, http};
use strelm_store::site::{self, Settings, SiteSource};

/// All pages of the site by their paths.
async fn paths(stage: &Stage) -> Vec<String> {
    let rows = stage.get("/pages?limit=200").await.unwrap();
    let rows = rows["rows"].as_array().unwrap().clone();
    rows.iter().map(|row| row["path"].as_str().unwrap().to_owned()).collect()
}

async fn live(stage: &Stage, path: &str) -> String {
    let address = format!("{}{path}", stage.live.entry().trim_end_matches('/'));
    http().unwrap().get(address).send().await.unwrap().text().await.unwrap()
}

/// Asks until a page says so.
async fn until(edge: &EdgeProcess, path: &str, is_so: impl Fn(&str) -> bool) -> Duration {
    let begun = Instant::now();
    loop {
        let page = edge.page(path).await.unwrap();
        if is_so(&page) {
            return begun.elapsed();
        }
        assert!(begun.elapsed() < Duration::from_secs(20), "{path}: {page}");
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

async fn number(stage: &Stage, path: &str) -> Value {
    stage.page(path).await.unwrap()["number"].clone()
}

/// Lines with which the places of all rules are answered, as links to take.
async fn wanted(stage: &Stage) -> Vec<Value> {
    let address = stage.address(&format!("api/sites/{}/rules/places", stage.site.0));
    let text = http().unwrap().post(address).json(&json!({})).send().await.unwrap().text().await.unwrap();
    let lines: Vec<Value> = text.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let pages = lines.iter().filter(|line| line["kind"] == "pages").flat_map(|line| line["pages"].as_array().unwrap());
    let places = pages.flat_map(|page| page["places"].as_array().unwrap().iter().map(move |place| (page, place)));
    let take = |(page, place): (&Value, &Value)| {
        json!({
            "source": page["page"]["number"], "target": 0, "words_start": place["words_start"],
            "words_end": place["words_end"], "version": page["version"], "rule": place["rule"], "by_hand": true
        })
    };
    places.filter(|(_, place)| place["state"] == "wanted").map(take).collect()
}

#[sqlx::test(migrations = false)]
async fn the_edge_puts_into_every_page_what_the_page_itself_would_get(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let averted = number(&stage, "/guides/averted-vision/").await;
    let dark = number(&stage, "/guides/dark-adaptation/").await;
    let rules = json!([
        { "phrases": ["averted vision"], "target": averted, "title": "How to look “beside” it" },
        { "phrases": ["dark adaptation", "adapted to the dark"], "target": dark, "headings": true },
        { "phrases": ["Saturn", "Jupiter"], "target": { "kind": "outside", "address": "https://almanac.example/?a=1&b=2" },
          "per_page": 2, "new_tab": true, "tracking": ["from=sky"], "without": ["li"] },
        { "phrases": ["moon"], "target": { "kind": "mail", "to": "moon@larkmoor.example" }, "share": 0.5 },
    ]);
    assert_eq!(stage.call("POST", "/rules", Some(rules)).await.unwrap().0, 200);
    let paths = paths(&stage).await;
    assert!(paths.len() > 100);
    let edge = stage.edge().await.unwrap();
    until(&edge, "/guides/dark-adaptation/", |page| {
        page.contains("almanac.example") || page.contains("averted-vision")
    })
    .await;

    // A page that is sent through comes back as it passes, once the edge knows what comes to it.
    let mut links = 0;
    let mut passed: BTreeMap<&String, String> = BTreeMap::new();
    for path in &paths {
        let asked = http().unwrap().post(stage.address(&format!("api/sites/{}/render", stage.site.0)));
        let asked = asked.query(&[("address", path)]).header("content-type", "text/html; charset=utf-8");
        let got = asked.body(live(&stage, path).await).send().await.unwrap();
        assert_eq!(got.status(), 200, "{path}");
        links += got.headers()["strelm-links"].to_str().unwrap().parse::<usize>().unwrap();
        let page = got.text().await.unwrap();
        until(&edge, path, |passes| passes == page).await;
        passed.insert(path, page);
    }
    let wanted = wanted(&stage).await;
    assert!(links >= 30 && links == wanted.len(), "{links} links pass, and {} are wanted", wanted.len());

    let render = async |address: &str, media: &str, page: Vec<u8>| {
        let asked = http().unwrap().post(stage.address(&format!("api/sites/{}/render", stage.site.0)));
        let asked = asked.query(&[("address", address)]).header("content-type", media).body(page);
        let got = asked.send().await.unwrap();
        (got.status().as_u16(), got.bytes().await.unwrap())
    };
    // Pages that nobody read, in whatever they are written; and what is no page of this site is told.
    // Long enough for a link by all limits.
    let filled = |begin: &[u8], end: &[u8]| [begin, " and look again".repeat(60).as_bytes(), end].concat();
    let (status, page) = render("/new", "text/markdown", filled(b"They use dark adaptation", b" \xe2\x80\xa6")).await;
    assert_eq!(status, 200);
    assert!(page.starts_with(b"They use [dark adaptation](/guides/dark-adaptation/)"), "{page:?}");
    let (_, page) =
        render("/new", "text/html; charset=iso-8859-1", filled(b"<p>Averted vision", b" d\xe9j\xe0</p>")).await;
    assert!(page.starts_with(b"<p><a href") && page.ends_with(b"d\xe9j\xe0</p>"), "{page:?}");
    for (address, media, status) in [
        ("/new", "application/pdf", 422),
        ("https://elsewhere.example/", "text/html", 422),
        ("mailto:moon", "text/html", 422),
    ] {
        let (told, why) = render(address, media, b"<p>averted vision</p>".to_vec()).await;
        assert_eq!(told, status, "{address} {media}");
        assert!(String::from_utf8_lossy(&why).contains(if media == "text/html" {
            "/guides/moon"
        } else {
            "text/html"
        }));
    }

    // The same links in the pages themselves make the same pages, and the edge adds nothing to those.
    let (status, told) = stage.decide(json!({ "kind": "take", "links": wanted })).await.unwrap();
    assert_eq!((status, told["refused"].as_array().map(Vec::len)), (200, Some(0)), "{told}");
    stage.release().await.unwrap();
    for (path, page) in &passed {
        assert_eq!(&live(&stage, path).await, page, "{path}");
    }
    stage.read_again().await.unwrap();
    tokio::time::sleep(Duration::from_secs(2)).await;
    for (path, page) in &passed {
        until(&edge, path, |passes| passes == page).await;
    }
}

#[sqlx::test(migrations = false)]
async fn what_is_handed_over_is_carried_until_it_is_withdrawn(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let settings = Settings::new("Larkmoor Sky Society", SiteSource::Web { micropub: None });
    site::set(&stage.pool, stage.site, &settings).await.unwrap().unwrap();
    stage.read_again().await.unwrap();
    stage.wait_for_openings().await.unwrap();
    let rows = stage.get("/pages?sort=openings_out&descending=true&limit=1").await.unwrap();
    let source = rows["rows"][0]["path"].as_str().unwrap().to_owned();
    let openings = stage.desk(&source).await.unwrap()["openings_out"].as_array().unwrap().clone();
    for opening in openings.iter().take(3) {
        assert_eq!(stage.decide(strelm_e2e::calls::take_of(opening)).await.unwrap().0, 200);
    }
    let edge = stage.edge().await.unwrap();
    let before = edge.page(&source).await.unwrap();
    stage.release().await.unwrap();
    let shown = stage.get("/edge").await.unwrap();
    assert_eq!(
        (&shown["carries"], &shown["is_handed_over"], &shown["handed_over"]),
        (&json!(false), &json!(true), &json!(3))
    );
    assert_eq!(shown["running"].as_array().unwrap().len(), 1);

    // It comes to the page once that is wanted, and a reading sees the site as it is.
    let set = async |carries: bool| {
        let wish = json!({ "carries": carries, "footer": shown["footer"] });
        assert_eq!(stage.call("PUT", "/edge", Some(wish)).await.unwrap().0, 204);
    };
    set(true).await;
    let links = |page: &str| page.matches("<a ").count();
    let more = |page: &str| links(page) - links(&before);
    assert!(until(&edge, &source, |page| more(page) == 3).await < Duration::from_secs(5));
    stage.read_again().await.unwrap();
    assert_eq!(stage.get("/edge").await.unwrap()["lost"], 0);

    // A sentence that has changed is left alone, and that is told after the next reading; the others keep their links.
    let html = stage.live_source(&source).await.unwrap();
    let whole = |opening: &Value| {
        let part = |name: &str| opening["sentence"][name].as_str().unwrap().to_owned();
        part("before") + &part("anchor") + &part("after")
    };
    let lost = openings.iter().take(3).filter(|opening| whole(opening) == whole(&openings[0])).count();
    let sentence = &openings[0]["sentence"];
    let after: String = sentence["after"].as_str().unwrap().chars().take(12).collect();
    let words = sentence["anchor"].as_str().unwrap();
    let changed = html.replacen(&format!("{words}{after}"), &format!("{words} indeed{after}"), 1);
    assert_ne!(changed, html, "{sentence}");
    stage.change_live_page(&source, &changed).await.unwrap();
    until(&edge, &source, |page| page.contains(" indeed") && more(page) == 3 - lost).await;
    stage.read_again().await.unwrap();
    assert_eq!(stage.get("/edge").await.unwrap()["lost"], lost);
    assert_eq!(more(&edge.page(&source).await.unwrap()), 3 - lost);

    // All of it is taken back in one step.
    let release = stage.release_in(&["out"]).await.unwrap();
    let path = format!("/releases/{}/withdraw", release["release"]);
    assert!(stage.call("POST", &path, None).await.unwrap().0 < 300);
    until(&edge, &source, |page| more(page) == 0).await;
    set(false).await;
    assert_eq!(stage.get("/edge").await.unwrap()["handed_over"], 0);
}

#[sqlx::test(migrations = false)]
async fn what_a_rule_links_at_once_is_in_the_tray_after_a_reading(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::read_in_whole(options).await.unwrap();
    let target = number(&stage, "/guides/averted-vision/").await;
    let other = number(&stage, "/guides/dark-adaptation/").await;
    // What was read before there was a rule is looked at, though the server begins anew.
    let rules = json!([{ "phrases": ["averted vision"], "target": target, "at_once": true }]);
    assert_eq!(stage.call("POST", "/rules", Some(rules)).await.unwrap().0, 200);
    stage.restart_server().await.unwrap();
    for _ in 0..10 {
        assert_eq!(stage.get("/tray").await.unwrap().to_string().matches("\"anchor\"").count(), 0);
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    let rules = json!([
        { "phrases": ["velvet lantern"], "target": target, "at_once": true },
        { "phrases": ["silver whistle"], "target": other },
    ]);
    assert_eq!(stage.call("POST", "/rules", Some(rules)).await.unwrap().0, 200);
    assert_eq!(stage.get("/rules").await.unwrap()["rules"][1]["rule"]["at_once"], true);
    let path = "/guides/collimation/";
    let html = stage.live_source(path).await.unwrap();
    let added = "<p>A velvet lantern hangs beside the silver whistle. Nobody looks at either.</p>";
    stage.change_live_page(path, &format!("{html}{added}")).await.unwrap();
    stage.read_again().await.unwrap();
    let begun = Instant::now();
    let tray = loop {
        let tray = stage.get("/tray").await.unwrap();
        if tray.to_string().contains("velvet lantern") {
            break tray;
        }
        assert!(begun.elapsed() < Duration::from_secs(20), "{tray}");
        tokio::time::sleep(Duration::from_millis(50)).await;
    };
    assert!(!tray.to_string().contains("\"anchor\":\"silver whistle\""), "{tray}");
    // Another server comes to the same and takes nothing twice.
    let second = stage.second_server().await.unwrap();
    let address = second.address(&format!("api/sites/{}/tray", stage.site.0));
    for _ in 0..5 {
        let there: Value = http().unwrap().get(&address).send().await.unwrap().json().await.unwrap();
        assert_eq!(there.to_string().matches("\"anchor\":\"velvet lantern\"").count(), 1);
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    second.stop().await;
}

#[sqlx::test(migrations = false)]
async fn a_footer_is_made_and_comes_to_all_pages(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let edge = stage.edge().await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/edge", stage.site.0))).await.unwrap();
    browser.wait_for("main h2", "Footer links").await.unwrap();
    browser.wait_for("main li a", &edge.address.replace("http://", "")).await.unwrap();
    let field = browser.wait_for("form label", "One more link").await.unwrap();
    field.click().await.unwrap();
    let type_in = async |text: &str| browser.client.active_element().await.unwrap().send_keys(text).await.unwrap();
    type_in("averted vision").await;
    browser.wait_for("[role=option]", "Averted vision").await.unwrap();
    type_in(&Key::Enter.to_string()).await;
    browser.wait_for("ul[aria-label='Links of the footer'] li", "Averted vision").await.unwrap();
    browser.wait_for("form label", "One more link").await.unwrap().click().await.unwrap();
    type_in("https://maps.example/sky").await;
    browser.wait_for("[role=option]", "an address of another site").await.unwrap();
    type_in(&Key::Enter.to_string()).await;
    browser.wait_for("ul[aria-label='Links of the footer'] li", "maps.example").await.unwrap();
    browser.wait_for("form label", "Edges put it on every page").await.unwrap().click().await.unwrap();
    for target in ["javascript:alert(1)", "not an address", ""] {
        let links = [json!({ "text": "Maps", "address": target })];
        let footer = json!({ "is_on": true, "before": "", "between": "", "after": "", "links": links });
        let (status, why) =
            stage.call("PUT", "/edge", Some(json!({ "carries": false, "footer": footer }))).await.unwrap();
        assert!(status == 422 && why.to_string().contains("is no address"), "{target}: {why}");
    }
    browser.wait_for("form button", "Save the footer").await.unwrap().click().await.unwrap();
    browser.wait_for("form code", "maps.example/sky").await.unwrap();
    assert!(browser.axe().await.unwrap().is_empty());
    let foot = " · <a href=\"https://maps.example/sky\">maps.example/sky</a></p></body>";
    until(&edge, "/", |page| {
        page.contains(foot) && page.contains("<p><a href=\"/guides/averted-vision/\">Averted vision")
    })
    .await;
    until(&edge, "/no-such-guide/../about/", |page| page.contains(foot)).await;
    // Undone from the notice.
    browser.wait_for("button", "Undo").await.unwrap().click().await.unwrap();
    until(&edge, "/", |page| !page.contains("maps.example")).await;
}
