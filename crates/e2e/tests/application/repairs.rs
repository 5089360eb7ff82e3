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

#[sqlx::test(migrations = false)]
async fn one_dead_address_is_mended_in_all_its_places(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("notes").unwrap();
    let write = |name: &str, text: String| std::fs::write(folder.join(name), text).unwrap();
    let menu = "<nav><a href=old-news.html>News</a></nav>";
    let names = ["a", "b", "c", "d"];
    let links: String = names.iter().map(|name| format!("<a href={name}.html>{name}</a> ")).collect();
    write("index.html", format!("<title>Home</title>{menu}<main><p>Go to {links}</p></main>"));
    write("moons.html", "<title>The moons</title><p>All moons.</p>".to_owned());
    for name in names {
        let twice = if name == "a" { "<p>Again <a href=moonz.html#io>Io</a>.</p>" } else { "" };
        let text = format!("<p>Page {name} on <a href=moonz.html>its moons</a> and more.</p>{twice}");
        write(&format!("{name}.html"), format!("<title>Page {name}</title>{menu}<main>{text}</main>"));
    }
    let source = json!({"kind": "folder", "path": folder.display().to_string()});
    let body = json!({"name": "Notes", "source": source});
    let added = strelm_e2e::stage::http().unwrap().post(stage.address("api/sites")).json(&body).send().await.unwrap();
    let site = i32::try_from(added.json::<Value>().await.unwrap()["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let call =
        async |method: &str, path: &str, body: Option<Value>| stage.call_site(site, method, path, body).await.unwrap();

    // One row for the address, whatever places it names on the page, and one for what is in the template.
    let today = call("GET", "/today", None).await.1;
    let rows = today["broken"]["first"].as_array().unwrap();
    assert_eq!((&today["broken"]["links"], &today["broken"]["addresses"]), (&json!(10), &json!(2)));
    assert_eq!((&rows[0]["to"], &rows[0]["pages"], &rows[0]["times"]), (&json!("/moonz.html"), &json!(4), &json!(5)));
    assert_eq!(
        (&rows[1]["to"], &rows[1]["pages"], &rows[1]["around"]),
        (&json!("/old-news.html"), &json!(0), &json!(5))
    );
    assert_eq!(rows[1]["only_boilerplate"], true);

    // All its places can be looked at, and are mended together; one undo takes that back.
    let address = rows[0]["address"].as_str().unwrap();
    let places = call("GET", &format!("/faults/places?address={address}"), None).await.1;
    assert_eq!((&places["total"], &places["likeliest"]["path"]), (&json!(4), &json!("/moons.html")));
    let pages: Vec<Value> = places["pages"]
        .as_array()
        .unwrap()
        .iter()
        .map(|page| json!({"source": page["page"]["number"], "version": page["version"]}))
        .collect();
    let first = &places["pages"][0]["places"];
    assert_eq!(first[0]["anchor"], "its moons", "{places}");
    let what = json!({"kind": "repair_all", "pages": pages, "address": address, "fragment": null, "target": places["likeliest"]["number"]});
    let decide = json!({"hand": uuid::Uuid::new_v4(), "key": uuid::Uuid::new_v4(), "what": what});
    let (status, decided) = call("POST", "/decisions", Some(decide.clone())).await;
    assert_eq!((status, &decided["tray"]["links"], &decided["refused"]), (200, &json!(5), &json!([])), "{decided}");
    let then = call("GET", "/today", None).await.1;
    assert_eq!((&then["broken"]["links"], &then["broken"]["addresses"]), (&json!(5), &json!(1)));
    assert_eq!(call("GET", &format!("/faults/places?address={address}"), None).await.0, 404);
    let turn = json!({"hand": decide["hand"], "key": uuid::Uuid::new_v4()});
    assert_eq!(call("POST", "/undo", Some(turn)).await.0, 200);
    assert_eq!(call("GET", "/today", None).await.1["broken"]["links"], 10);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn many_places_are_looked_at_before_they_are_mended(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("notes").unwrap();
    std::fs::write(
        folder.join("index.html"),
        "<title>Home</title><p><a href=a.html>a</a> <a href=b.html>b</a> <a href=moons.html>m</a></p>",
    )
    .unwrap();
    std::fs::write(folder.join("moons.html"), "<title>The moons</title><p>All moons.</p>").unwrap();
    for name in ["a", "b"] {
        let text = format!("<title>Page {name}</title><p>On <a href=moonz.html>its moons</a>.</p>");
        std::fs::write(folder.join(format!("{name}.html")), text).unwrap();
    }
    let body = json!({"name": "Notes", "source": {"kind": "folder", "path": folder.display().to_string()}});
    let added = strelm_e2e::stage::http().unwrap().post(stage.address("api/sites")).json(&body).send().await.unwrap();
    let site = i32::try_from(added.json::<Value>().await.unwrap()["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{site}/today"))).await.unwrap();
    browser.wait_for("h2", "2 broken links, to 1 address").await.unwrap();
    browser.wait_for("button", "Mend all 2 pages").await.unwrap();
    browser.press("f").await.unwrap();
    browser.wait_for("[role=dialog]", "which they were likely meant for").await.unwrap();
    browser.wait_for("[role=dialog] li", "its moons").await.unwrap();
    assert!(browser.axe().await.unwrap().is_empty());
    browser.wait_for("[role=dialog] button", "Mend 2 links on 2 pages").await.unwrap().click().await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "2 links on 2 pages").await.unwrap();
    browser.wait_until_gone("h2", "broken link").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("h2", "2 broken links").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}
