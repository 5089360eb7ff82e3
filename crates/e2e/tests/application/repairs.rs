//! Mending links that lead nowhere: pointed elsewhere, taken off, released, and taken back.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_core::document::Document;
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;

const CASE: &str = "/shop/eyepiece-case/";
const EVENING: &str = "/events/open-evening/";
const ABOUT: &str = "/about/";

async fn today(stage: &Stage) -> Value {
    stage.get("/today").await.unwrap()
}

/// The row of a page among those with a fault, and how to mend it.
fn repair(today: &Value, list: &str, page: &str) -> Value {
    let rows = today[list]["first"].as_array().unwrap();
    let row = rows.iter().find(|row| row["page"]["path"] == page).unwrap_or_else(|| panic!("{page} in {rows:#?}"));
    row["repair"].clone()
}

fn what(repair: &Value, points: bool) -> Value {
    json!({
        "kind": "repair",
        "source": repair["source"],
        "version": repair["version"],
        "address": repair["address"],
        "fragment": repair["fragment"],
        "target": if points { repair["likeliest"]["number"].clone() } else { Value::Null },
    })
}

fn hrefs(html: &str) -> Vec<String> {
    Document::from_html(html).links().iter().map(|link| link.href.clone()).collect()
}

fn text(html: &str) -> String {
    Document::from_html(html).text().as_str().to_owned()
}

#[sqlx::test(migrations = false)]
async fn mended_links_change_counts_at_once_go_out_and_come_back(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let pages = [CASE, EVENING, ABOUT];
    let mut before = Vec::new();
    for page in pages {
        before.push(stage.live_source(page).await.unwrap());
    }
    let first = today(&stage).await;
    assert_eq!((&first["broken"]["links"], &first["detours"]["links"]), (&json!(4), &json!(2)));
    let target = repair(&first, "broken", CASE)["likeliest"]["path"].as_str().unwrap().to_owned();
    let links_out = stage.page(EVENING).await.unwrap()["links_out"].as_u64().unwrap();

    for (list, page, points) in [("broken", CASE, true), ("broken", EVENING, false), ("detours", ABOUT, true)] {
        let wish = what(&repair(&first, list, page), points);
        let (status, decided) = stage.decide(wish).await.unwrap();
        assert_eq!((status, &decided["kind"]), (200, &json!("repair")), "{decided}");
    }
    let then = today(&stage).await;
    assert_eq!((&then["broken"]["links"], &then["detours"]["links"]), (&json!(2), &json!(1)));
    assert_eq!(then["changes_waiting"], 3);
    assert_eq!(stage.page(EVENING).await.unwrap()["links_out"], links_out - 1);
    let tray = stage.get("/tray").await.unwrap();
    let counts = |path: &str| {
        let page = tray.as_array().unwrap().iter().find(|page| page["page"]["path"] == path).unwrap();
        (page["links_before"].as_u64().unwrap(), page["links_after"].as_u64().unwrap())
    };
    assert_eq!(counts(EVENING), (links_out, links_out - 1));
    assert_eq!(counts(CASE).0, counts(CASE).1, "one link leads elsewhere");
    // Undone and done again as any decision.
    assert_eq!(stage.turn("undo").await.unwrap().1["decided"]["kind"], "repair");
    assert_eq!(today(&stage).await["detours"]["links"], 2);
    stage.turn("redo").await.unwrap();

    let release = stage.release().await.unwrap();
    assert_eq!(release["phase"], "out", "{release}");
    let mut after = Vec::new();
    for (page, was) in pages.iter().zip(&before) {
        let now = stage.live_source(page).await.unwrap();
        assert_eq!(text(&now), text(was), "{page}");
        after.push(now);
    }
    let gone = |was: &str, now: &str| -> Vec<String> {
        let now = hrefs(now);
        hrefs(was).into_iter().filter(|href| !now.contains(href)).collect()
    };
    assert_eq!(gone(&before[0], &after[0]), ["/shop/eyepieces/"]);
    assert!(hrefs(&after[0]).contains(&target));
    assert_eq!(hrefs(&after[1]).len() + 1, hrefs(&before[1]).len());
    assert!(hrefs(&after[2]).contains(&"/history/".to_owned()));
    assert_eq!(today(&stage).await["broken"]["links"], 2);

    // One page was changed since: there the release's own change alone is taken back.
    let changed = after[0].replace("</p>", " New words.</p>");
    stage.change_live_page(CASE, &changed).await.unwrap();
    let path = format!("/releases/{}/take-back", release["release"]);
    assert_eq!(stage.call("POST", &path, None).await.unwrap().0, 202);
    let back = stage.release_in(&["taken_back"]).await.unwrap();
    assert_eq!(back["phase"], "taken_back", "{back}");
    assert_eq!(stage.live_source(CASE).await.unwrap(), before[0].replace("</p>", " New words.</p>"));
    assert_eq!(stage.live_source(EVENING).await.unwrap(), before[1]);
    assert_eq!(stage.live_source(ABOUT).await.unwrap(), before[2]);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_link_is_mended_once_and_only_where_it_stands(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let wish = what(&repair(&today(&stage).await, "broken", CASE), true);
    assert_eq!(stage.decide(wish.clone()).await.unwrap().0, 200);
    let (status, problem) = stage.decide(wish.clone()).await.unwrap();
    assert_eq!(status, 409, "{problem}");
    for (field, value) in
        [("version", json!("0")), ("address", json!("http://elsewhere.example/")), ("source", json!(9999))]
    {
        let mut other = what(&repair(&today(&stage).await, "broken", EVENING), false);
        other[field] = value;
        let (status, problem) = stage.decide(other).await.unwrap();
        assert!(status == 409 || status == 404, "{field}: {status} {problem}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_broken_link_is_mended_from_today_by_one_key(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address("")).await.unwrap();
    browser.wait_for("h2", "4 broken links").await.unwrap();
    // The first has no likely page, so it is taken off; the fourth is pointed to one.
    browser.wait_for("li[aria-current=true]", "Open evening").await.unwrap();
    browser.press("x").await.unwrap();
    browser.wait_for("[data-testid=announcement]", "Mended").await.unwrap();
    browser.wait_for("h2", "3 broken links").await.unwrap();
    while !browser.find_now("li[aria-current=true]", "Eyepiece case").await.unwrap() {
        browser.press("j").await.unwrap();
    }
    browser.press("f").await.unwrap();
    browser.wait_for("h2", "2 broken links").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "2 links on 2 pages").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[role=status]", "stays as it is").await.unwrap();
    browser.wait_for("h2", "3 broken links").await.unwrap();
    browser.press("U").await.unwrap();
    browser.wait_for("h2", "2 broken links").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());

    // What will change is told before it goes out.
    browser.wait_for("button", "Review and release").await.unwrap().click().await.unwrap();
    browser.wait_for("#tray-list li", "nothing any more").await.unwrap();
    browser.wait_for("#tray-list li", "until now /shop/eyepieces/").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), Vec::<String>::new());
    browser.end().await.unwrap();
    stage.strike().await;
}
