//! Every view, theme and open dialog: axe finds nothing, nothing is cut off on a small or enlarged window.

use fantoccini::Locator;
use serde_json::json;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;
use strelm_standins::live_site::{Mischief, On, Order, Trouble};

/// Something to see in every view: a tray with a warning, an interrupted release, a passed opening, a second reading.
async fn furnish(stage: &Stage) {
    for target in ["/guides/red-torch/", "/guides/averted-vision/"] {
        stage.take(target, "/guides/dark-adaptation/").await.unwrap();
    }
    let opening = stage.opening("/guides/averted-vision/", "/glossary/transparency/").await;
    if let Ok(opening) = opening {
        let pass = strelm_e2e::calls::pass_of(&opening, "pair");
        stage.decide(pass).await.unwrap();
    }
    let trouble = Trouble::Status { status: 503, retry_after: None };
    let plan = Mischief { trouble, on: On::Changes, path: String::new(), times: 1000 };
    stage.live.obey(Order::Misbehave(plan)).unwrap();
    stage.call("POST", "/releases", None).await.unwrap();
    stage.release_in(&["interrupted"]).await.unwrap();
    stage.live.obey(Order::Delete { path: "/guides/finderscope/".to_owned() }).unwrap();
    stage.take("/guides/finderscope/", "/reports/partial-solar-eclipse/").await.unwrap();
    stage.read_again().await.unwrap();
}

async fn no_finding(browser: &Browser, view: &str) {
    let findings = browser.axe().await.unwrap();
    assert!(findings.is_empty(), "axe in {view}: {findings:#?}");
}

#[sqlx::test(migrations = false)]
async fn axe_finds_nothing_in_any_view_theme_or_dialog(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    furnish(&stage).await;
    let browser = Browser::start().await.unwrap();
    let page = stage.page("/guides/averted-vision/").await.unwrap()["number"].clone();
    let source = stage.page("/guides/dark-adaptation/").await.unwrap()["number"].clone();
    let binoculars = stage.page("/guides/binocular-stargazing/").await.unwrap()["number"].clone();
    let views = [
        (format!("pages/{binoculars}"), "h1", "Stargazing with binoculars"),
        ("today".to_owned(), "h1", "Today"),
        ("pages".to_owned(), "[role=status]", "72 pages shown"),
        ("pages?bounds=words%3A..100&kind=page&text=zzz".to_owned(), "main", "No page has “zzz”"),
        (format!("pages/{page}"), "h1", "Averted vision"),
        (format!("pages/{source}"), "h1", "Dark adaptation"),
        ("reach".to_owned(), "[data-testid=left-page]", ""),
        (format!("reach?page={binoculars}"), "h2", "Stargazing with binoculars"),
        ("reach?show=table".to_owned(), "main tbody td", "unreachable"),
        ("equity".to_owned(), "main table", "without a category"),
        ("flow".to_owned(), "main table", "without a category"),
        ("rules".to_owned(), "main h2", "Words that link themselves"),
        ("rules/new".to_owned(), "h1", "A new rule"),
        ("edge".to_owned(), "main h2", "Footer links"),
        ("history".to_owned(), "[data-testid=release]", "interrupted"),
        ("history?show=readings".to_owned(), "[data-testid=reading]", "done"),
        ("setup".to_owned(), "h1", "Setup"),
        ("nowhere".to_owned(), "main", "There is nothing at this address"),
        ("pages/9999".to_owned(), "[role=alert]", "There is no such page"),
    ];

    browser.client.goto(&stage.address("add")).await.unwrap();
    browser.wait_for("h1", "Add a site").await.unwrap();
    no_finding(&browser, "Add a site").await;
    browser.wait_for("label", "A folder").await.unwrap().click().await.unwrap();
    let path = browser.client.find(Locator::Css("input[placeholder='/srv/site']")).await.unwrap();
    path.send_keys("notes").await.unwrap();
    browser.wait_for("[role=alert]", "beginning with /").await.unwrap();
    no_finding(&browser, "Add a site with a mistake").await;
    for (view, css, text) in &views {
        browser.client.goto(&stage.address(&format!("{}/{view}", stage.site.0))).await.unwrap();
        browser.wait_for(css, text).await.unwrap();
        no_finding(&browser, view).await;
    }
    // What opens over the views.
    browser.client.goto(&stage.address(&format!("{}/pages/{page}", stage.site.0))).await.unwrap();
    browser.wait_for("[aria-current=true]", "averted vision").await.unwrap();
    browser.press("r").await.unwrap();
    browser.wait_for("[aria-current=true] dl", "").await.unwrap();
    no_finding(&browser, "reasons").await;
    browser.press("/").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Today").await.unwrap();
    browser.client.active_element().await.unwrap().send_keys("vision").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Averted vision").await.unwrap();
    // The row that is chosen is a page out of reach.
    let escape = fantoccini::key::Key::Escape.to_string();
    browser.client.active_element().await.unwrap().send_keys(&escape).await.unwrap();
    browser.wait_until_gone("[role=dialog] [role=option]", "").await.unwrap();
    browser.press("/").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Today").await.unwrap();
    browser.client.active_element().await.unwrap().send_keys("barlow").await.unwrap();
    browser.wait_for("[role=dialog] [role=option][data-highlighted]", "unreachable").await.unwrap();
    no_finding(&browser, "find anything").await;
    browser.client.active_element().await.unwrap().send_keys(&fantoccini::key::Key::Escape.to_string()).await.unwrap();
    browser.wait_until_gone("[role=dialog] [role=option]", "").await.unwrap();
    browser.press("?").await.unwrap();
    browser.wait_for("[role=dialog] h2", "Keys").await.unwrap();
    no_finding(&browser, "keys").await;
    browser.client.goto(&stage.address(&format!("{}/pages?only=unreachable", stage.site.0))).await.unwrap();
    browser.wait_for("main tbody td", "unreachable").await.unwrap();
    let row = browser.client.find(Locator::Css("main tbody input[type=checkbox]")).await.unwrap();
    row.click().await.unwrap();
    no_finding(&browser, "chosen pages out of reach").await;
    browser.client.goto(&stage.address("9999/today")).await.unwrap();
    browser.wait_for("main [role=alert]", "There is no such site").await.unwrap();
    no_finding(&browser, "no such site").await;
    browser.client.goto(&stage.address(&format!("{}/pages", stage.site.0))).await.unwrap();
    for menu in ["Add a filter", "Columns", "Export"] {
        browser.wait_for("main button", menu).await.unwrap().click().await.unwrap();
        browser.wait_for("main [role=dialog], main [role=menu]", "").await.unwrap();
        no_finding(&browser, menu).await;
        browser.client.active_element().await.unwrap().send_keys(&escape).await.unwrap();
        browser.wait_until_gone("main [role=dialog], main [role=menu]", "").await.unwrap();
    }
    browser.wait_for("section[aria-label=Tray] button", "Review and release").await.unwrap().click().await.unwrap();
    browser.wait_for("#tray-list", "no longer on the site").await.unwrap();
    no_finding(&browser, "the tray").await;
    browser.client.goto(&stage.address(&format!("{}/setup", stage.site.0))).await.unwrap();
    browser.wait_for("main button", "Delete …").await.unwrap().click().await.unwrap();
    browser.wait_for("[role=dialog] h2", "Delete Larkmoor Sky Society").await.unwrap();
    no_finding(&browser, "deleting").await;
    browser.client.goto(&stage.address(&format!("{}/history?show=readings", stage.site.0))).await.unwrap();
    browser.wait_for("[data-testid=reading] button", "1 vanished").await.unwrap().click().await.unwrap();
    browser.wait_for("[data-testid=reading] li", "Finderscope").await.unwrap();
    no_finding(&browser, "what a reading found").await;
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn small_and_enlarged_windows_can_be_read(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let page = stage.page("/guides/averted-vision/").await.unwrap()["number"].clone();
    // A telephone; a laptop at 200 %, which has half as many pixels to each side.
    for (width, height) in [(360, 720), (400, 800), (640, 400)] {
        let size = json!({"width": width, "height": height, "deviceScaleFactor": 1, "mobile": false});
        browser.devtools("Emulation.setDeviceMetricsOverride", size).await.unwrap();
        for view in [
            "today",
            "pages",
            "reach",
            "equity",
            "flow",
            "rules/new",
            "edge",
            "history",
            "setup",
            &format!("pages/{page}"),
        ] {
            browser.client.goto(&stage.address(&format!("{}/{view}", stage.site.0))).await.unwrap();
            browser.wait_for("main h1", "").await.unwrap();
            // Nothing is wider than the window, but for what scrolls in itself.
            let wide = "return [document.documentElement.scrollWidth, window.innerWidth]";
            let measured = browser.client.execute(wide, Vec::new()).await.unwrap();
            assert!(measured[0].as_i64() <= measured[1].as_i64(), "{view} at {width}: {measured}");
            // The view keeps room to be read in.
            let room = "return document.querySelector('main').clientHeight";
            let room = browser.client.execute(room, Vec::new()).await.unwrap().as_i64().unwrap();
            let around = "return [...document.querySelector('main').parentElement.children]
                .map((part) => `${part.clientHeight}: ${part.textContent.slice(0, 60)}`)";
            let around = browser.client.execute(around, Vec::new()).await.unwrap();
            assert!(room >= 160, "{view} at {width}×{height}: {room} pixels, in {around:#}");
            let findings = browser.axe_of_shown_theme().await.unwrap();
            assert!(findings.is_empty(), "axe in {view} at {width}: {findings:#?}");
        }
        let text = browser.wait_for(".reader p", "").await.unwrap();
        let (_, _, wide, _) = text.rectangle().await.unwrap();
        assert!(wide > f64::from(width) * 0.6, "the text is {wide} wide");
    }
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}
