//! The whole job once, in a real browser: a site is read in, an orphan is found, linked, released and within reach, and
//! the release is taken back.

use fantoccini::Locator;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;

/// Where an orphan of the demo stands, and a page that names it.
const ORPHAN: &str = "/guides/averted-vision/";
const SOURCE: &str = "/guides/dark-adaptation/";

async fn no_finding(browser: &Browser, view: &str) {
    let findings = browser.axe().await.unwrap();
    assert!(findings.is_empty(), "axe in {view}: {findings:#?}");
}

async fn click(browser: &Browser, css: &str, text: &str) {
    browser.wait_for(css, text).await.unwrap().click().await.unwrap();
}

#[sqlx::test(migrations = false)]
async fn an_orphan_is_linked_released_and_the_release_taken_back(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::set(options).await.unwrap();
    let browser = Browser::start().await.unwrap();

    // 1. The site is being read in, and its pages appear without a reload.
    browser.client.goto(&stage.address("")).await.unwrap();
    browser.wait_for("main", "The site is being read").await.unwrap();
    click(&browser, "main nav a", "Pages").await;
    browser.wait_for("main", "Pages appear here as soon as they are read").await.unwrap();
    stage.read_site().await.unwrap();
    browser.wait_for("td", "Averted vision").await.unwrap();
    browser.wait_for("[role=status]", "73 pages shown").await.unwrap();
    no_finding(&browser, "Pages").await;
    click(&browser, "button", "links in = 0").await;
    browser.wait_for("[role=status]", "9 pages shown").await.unwrap();
    assert!(browser.client.current_url().await.unwrap().as_str().ends_with("?only=orphans"));
    browser.client.refresh().await.unwrap();
    browser.wait_for("[role=status]", "9 pages shown").await.unwrap();

    // 2. The orphan's Desk, with openings on other pages and their reasons.
    click(&browser, "td a", "Averted vision").await;
    browser.wait_for("h1", "Averted vision").await.unwrap();
    browser.wait_for("[data-testid=page-figures]", "unreachable").await.unwrap();
    browser.wait_for("[aria-current=true]", "averted vision").await.unwrap();
    click(&browser, "[aria-current=true] [aria-label^=Fit]", "").await;
    browser.wait_for("[aria-current=true] dd", "No page links to the target").await.unwrap();
    no_finding(&browser, "Desk").await;

    // 3. One is passed and one is taken by the keyboard; the counts change at once, and nothing is lost.
    browser.press("jk").await.unwrap();
    browser.wait_for("[aria-current=true]", "Dark adaptation").await.unwrap();
    browser.press("t").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.wait_for("[data-testid=page-figures]", "1 page links here").await.unwrap();
    browser.wait_for("[data-testid=page-figures]", "clicks from the entry page").await.unwrap();
    let passed = browser.wait_for("[aria-current=true] a", "").await.unwrap().text().await.unwrap();
    browser.press("p").await.unwrap();
    browser.wait_until_gone("[data-testid=opening]", &passed).await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] li", "Bring back").await.unwrap();
    stage.restart_server().await.unwrap();
    browser.client.refresh().await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] li", "Bring back").await.unwrap();
    browser.wait_for("header a", "8 orphans").await.unwrap();
    // A server that restarts under an open window shows itself as such; everything else on the console is an error.
    let complaints = browser.complaints().await.unwrap();
    assert!(complaints.iter().all(|line| line.contains("/events")), "{complaints:#?}");

    // 4. The tray shows the sentence before and after, and goes out.
    let before = stage.live_source(SOURCE).await.unwrap();
    click(&browser, "button", "Review and release").await;
    browser.wait_for("#tray-list", "What will change on the site").await.unwrap();
    browser.wait_for("#tray-list li", "seen with averted vision").await.unwrap();
    no_finding(&browser, "the tray").await;
    click(&browser, "button", "Release 1 link").await;
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();

    // 5. The link is on the live site, and the orphan is within reach at the depth that Strelm shows.
    let after = stage.live_source(SOURCE).await.unwrap();
    assert_eq!(after.replace("<a href=\"/guides/averted-vision/\">averted\nvision</a>", "averted\nvision"), before);
    assert_ne!(after, before);
    browser.wait_for("[data-testid=page-figures]", "2 clicks from the entry page").await.unwrap();
    let live = browser.wait_for("h1 + p a", ORPHAN).await.unwrap().attr("href").await.unwrap().unwrap();
    browser.client.goto(&live.replace(ORPHAN, SOURCE)).await.unwrap();
    click(&browser, "main .e-content a", "averted vision").await;
    browser.wait_for("h1", "Averted vision").await.unwrap();

    // 6. History takes the release back, and the page is what it was, byte for byte.
    browser.client.goto(&stage.address(&format!("{}/history", stage.site.0))).await.unwrap();
    browser.wait_for("[data-testid=release]", "out on the site").await.unwrap();
    no_finding(&browser, "History").await;
    click(&browser, "[data-testid=release] button", "Take back").await;
    browser.wait_for("[data-testid=release]", "taken back").await.unwrap();
    browser.wait_until_gone("[data-testid=release] header", "being").await.unwrap();
    assert_eq!(stage.live_source(SOURCE).await.unwrap(), before);
    browser.wait_for("header a", "9 orphans").await.unwrap();
    let complaints = browser.complaints().await.unwrap();
    assert!(complaints.is_empty(), "{complaints:#?}");
    browser.client.find(Locator::Css("h1")).await.unwrap();
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_page_that_changed_behind_our_back_gets_its_link_where_its_words_went(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    for target in [ORPHAN, "/guides/red-torch/"] {
        stage.take(target, SOURCE).await.unwrap();
    }
    let before = stage.live_source(SOURCE).await.unwrap();
    // New text on top, and one of the two sentences is written anew.
    let sentence = before.find("red torch").unwrap();
    let changed = format!("<p>New on top.</p>{}dim red torch{}", &before[..sentence], &before[sentence + 9..]);
    stage.change_live_page(SOURCE, &changed).await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/today", stage.site.0))).await.unwrap();
    click(&browser, "section[aria-label=Tray] button", "Review and release").await;
    browser.wait_for("#tray-list", "links in its text:").await.unwrap();
    click(&browser, "button", "Release 2 links").await;
    browser.wait_for("section[aria-label=Tray]", "1 warning").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    let after = stage.live_source(SOURCE).await.unwrap();
    assert_eq!(after.replace("<a href=\"/guides/averted-vision/\">averted\nvision</a>", "averted\nvision"), changed);
    assert_ne!(after, changed);
    click(&browser, "section[aria-label=Tray] button", "Review and release").await;
    browser.wait_for("#tray-list", "their sentence is no longer on the page").await.unwrap();
    click(&browser, "#tray-list button", "Drop").await;
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.end().await.unwrap();
    stage.strike().await;
}
