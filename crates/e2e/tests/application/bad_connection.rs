//! Decisions in a browser behind a connection that loses orders, hides answers and tears them: all are made in the end,
//! each once.

use std::time::Duration;

use serde_json::json;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::proxy::BadConnection;
use strelm_e2e::stage::Stage;
use strelm_store::{PgPool, SiteId};

/// Passing an opening and undoing that, so often; a lost or doubled one would undo something else.
const ROUNDS: usize = 49;

const PAGE: &str = "/guides/averted-vision/";

/// How many orders were answered, how many links are in the tray, how many openings are passed.
async fn counts(pool: &PgPool, site: SiteId) -> (i64, i64, i64) {
    let count = async |table: &str| -> i64 {
        let query = format!("select count(*) from {table}");
        sqlx::query_scalar(sqlx::AssertSqlSafe(query)).bind(site.0).fetch_one(pool).await.unwrap()
    };
    (
        count("decision_answer where site_id = $1 and refusal is null").await,
        count("taken_link where site_id = $1 and state = 'tray'").await,
        count("passed_opening where site_id = $1").await,
    )
}

async fn wait_for_counts(pool: &PgPool, site: SiteId, wanted: (i64, i64, i64)) {
    for _ in 0..1200 {
        if counts(pool, site).await == wanted {
            return;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert_eq!(counts(pool, site).await, wanted);
}

/// Presses a key once something is there to decide about.
async fn decide(browser: &Browser, key: &str) {
    browser.wait_for("[aria-current=true]", "Take").await.unwrap();
    browser.press(key).await.unwrap();
}

#[sqlx::test(migrations = false)]
async fn a_hundred_decisions_are_each_made_once_behind_a_bad_connection(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let page = stage.page(PAGE).await.unwrap()["number"].clone();
    let proxy = BadConnection::before(&stage.address(""), 30).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let desk = proxy.address(&format!("{}/pages/{page}", stage.site.0));
    browser.client.goto(&desk).await.unwrap();
    browser.wait_for("h1", "Averted vision").await.unwrap();
    decide(&browser, "t").await;
    decide(&browser, "t").await;
    for _ in 0..ROUNDS {
        decide(&browser, "p").await;
        browser.press("u").await.unwrap();
    }
    wait_for_counts(&stage.pool, stage.site, (100, 2, 0)).await;
    browser.wait_until_gone("[data-testid=on-the-way]", "decision").await.unwrap();
    assert!(proxy.spoilt() > 20, "{} of 100 orders fared badly", proxy.spoilt());

    // With no way through, what is decided in two windows waits in both, and a reload loses none of it.
    proxy.set_bad(100);
    decide(&browser, "p").await;
    browser
        .wait_for("[data-testid=on-the-way]", "1 decision on the way to the server, which does not take it yet")
        .await
        .unwrap();
    let other = browser.client.new_window(true).await.unwrap().handle;
    let first = browser.client.window().await.unwrap();
    browser.client.switch_to_window(other).await.unwrap();
    browser.client.goto(&desk).await.unwrap();
    browser.wait_for("[data-testid=on-the-way]", "1 decision").await.unwrap();
    decide(&browser, "p").await;
    browser.wait_for("[data-testid=on-the-way]", "2 decisions on the way to the server, which does not").await.unwrap();
    browser.client.refresh().await.unwrap();
    browser.wait_for("[data-testid=on-the-way]", "2 decisions").await.unwrap();
    browser.client.switch_to_window(first).await.unwrap();
    browser.wait_for("[data-testid=on-the-way]", "2 decisions on the way to the server, which does not").await.unwrap();
    browser.wait_for("button", "Try now").await.unwrap();
    proxy.set_bad(0);
    wait_for_counts(&stage.pool, stage.site, (102, 2, 2)).await;
    browser.wait_until_gone("[data-testid=on-the-way]", "decision").await.unwrap();
    browser.end().await.unwrap();
    proxy.stop().await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_browser_that_keeps_nothing_says_so_and_decides_all_the_same(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let page = stage.page(PAGE).await.unwrap()["number"].clone();
    let proxy = BadConnection::before(&stage.address(""), 100).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let full =
        json!({"source": "Storage.prototype.setItem = () => { throw new DOMException('', 'QuotaExceededError') }"});
    browser.devtools("Page.addScriptToEvaluateOnNewDocument", full).await.unwrap();
    browser.client.goto(&proxy.address(&format!("{}/pages/{page}", stage.site.0))).await.unwrap();
    decide(&browser, "p").await;
    browser.wait_for("[data-testid=on-the-way]", "This browser keeps nothing").await.unwrap();
    browser.wait_for("button", "Try now").await.unwrap();
    proxy.set_bad(0);
    wait_for_counts(&stage.pool, stage.site, (1, 0, 1)).await;
    browser.wait_until_gone("[data-testid=on-the-way]", "decision").await.unwrap();
    browser.end().await.unwrap();
    proxy.stop().await;
    stage.strike().await;
}
