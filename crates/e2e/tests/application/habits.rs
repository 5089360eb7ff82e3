//! What a site's own links teach is learnt at the end of a reading, moves the fits of openings, is told in Setup, and is not
//! used where an editor does not want it.

use std::path::Path;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::calls::{HAND, take_of};
use strelm_e2e::stage::{Stage, http};

const THINGS: [&str; 12] = [
    "Red torch",
    "Star atlas",
    "Barlow lens",
    "Dew shield",
    "Finder scope",
    "Moon filter",
    "Focal reducer",
    "Tripod head",
    "Power tank",
    "Sky quality",
    "Mirror cell",
    "Dark adaptation",
];

const REPORTS: usize = 190;

/// Of the last reports, which have no links of their own.
const BARE: usize = 5;

/// Which thing a report names: told of in its first paragraph, or listed at its end.
fn named(report: usize, place: usize) -> usize {
    (report * 5 + place * 7 + report / 12) % THINGS.len()
}

/// Writes a page for each thing, and reports of which so many have links in their lists, and none in their paragraphs.
fn write_site(folder: &Path, linked: usize) {
    for (at, name) in THINGS.iter().enumerate() {
        let html =
            format!("<html lang=en><title>{name}</title><p>Of this thing number {at} there is a lot to be said.</p>");
        std::fs::write(folder.join(format!("thing-{at}.html")), html).unwrap();
    }
    for at in 0..REPORTS {
        let listed = |place: usize| {
            let (thing, words) = (named(at, place), THINGS[named(at, place)].to_lowercase());
            if at < linked { format!("<a href=thing-{thing}.html>{words}</a>") } else { words }
        };
        let told = THINGS[named(at, 0)].to_lowercase();
        let html = format!(
            "<html lang=en><title>Evening {at}</title><p>On evening {at} somebody brought a {told} and showed it to all \
             who had come out for kind{} and kind{}.</p><ul><li>What we used for the first time on evening {at}: {}, \
             which nobody wants to miss any more.</li><li>What we left at home on evening {at} for another time: {}, \
             since it was much too heavy.</li></ul>",
            at % 31,
            at * at % 29,
            listed(1),
            listed(2),
        );
        std::fs::write(folder.join(format!("evening-{at}.html")), html).unwrap();
    }
    let all: String = (0..REPORTS).map(|at| format!("<li><a href=evening-{at}.html>Evening {at}</a>")).collect();
    std::fs::write(folder.join("index.html"), format!("<html lang=en><title>Evenings</title><ul>{all}</ul>")).unwrap();
}

/// Takes the first openings on a page.
async fn take_some(stage: &Stage, site: i32, page: &str) {
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let row = pages["rows"].as_array().unwrap().iter().find(|row| row["path"] == page).unwrap();
    let (_, desk) = stage.call_site(site, "GET", &format!("/pages/{}/desk", row["number"]), None).await.unwrap();
    for opening in desk["openings_out"].as_array().unwrap().iter().take(3) {
        let body = json!({"hand": HAND, "key": uuid::Uuid::new_v4(), "what": take_of(opening)});
        assert_eq!(stage.call_site(site, "POST", "/decisions", Some(body)).await.unwrap().0, 200);
    }
}

/// How much better what is listed fits than what is told of, on the reports without links, in the mean.
async fn lead(stage: &Stage, site: i32, desk: impl AsyncFn(&Value) -> Value) -> f64 {
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let mut leads = Vec::new();
    for at in REPORTS - BARE..REPORTS {
        let path = format!("/evening-{at}.html");
        let row = pages["rows"].as_array().unwrap().iter().find(|row| row["path"] == path.as_str()).unwrap();
        let desk = desk(&row["number"]).await;
        let fit = |place: usize| {
            let target = format!("/thing-{}.html", named(at, place));
            let openings = desk["openings_out"].as_array().unwrap();
            let found = openings.iter().find(|opening| opening["page"]["path"] == target.as_str());
            found.map_or(0.0, |opening| opening["fit"].as_f64().unwrap())
        };
        leads.push(fit(1).min(fit(2)) - fit(0));
    }
    leads.iter().sum::<f64>() / leads.len() as f64
}

#[sqlx::test(migrations = false)]
async fn what_a_site_s_own_links_teach_moves_fits_as_long_as_it_is_wanted(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("evenings").unwrap();
    write_site(&folder, 0);
    let site = json!({"name": "Evenings", "source": {"kind": "folder", "path": folder, "address": "evenings.example"}});
    let answer = http().unwrap().post(stage.address("api/sites")).json(&site).send().await.unwrap();
    let added: Value = answer.json().await.unwrap();
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    let limits = async || stage.call_site(site, "GET", "/limits", None).await.unwrap().1;
    let lead = async || {
        let desk = async |number: &Value| {
            stage.call_site(site, "GET", &format!("/pages/{number}/desk"), None).await.unwrap().1
        };
        lead(&stage, site, desk).await
    };
    let read_anew = async || {
        assert_eq!(stage.call_site(site, "POST", "/readings", None).await.unwrap().0, 202);
        stage.wait_until_read(site).await.unwrap();
    };
    stage.wait_until_read(site).await.unwrap();
    assert_eq!(limits().await["habits_of"], Value::Null, "a list of links tells nothing of running text");

    // The server has the site in memory and follows.
    write_site(&folder, REPORTS - BARE);
    read_anew().await;
    let told = limits().await;
    assert!(told["habits_of"].as_u64().unwrap() >= 200, "{told}");
    let taught = lead().await;
    // For the next start all is kept as the judge that was taught found it.
    let judges = async || -> i64 {
        let count = sqlx::query_scalar("select count(distinct judge) from looked_page where site_id = $1");
        count.bind(site).fetch_one(&stage.pool).await.unwrap()
    };
    for _ in 0..600 {
        if judges().await == 1 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_eq!(judges().await, 1);
    let follow = async |wanted: bool| {
        let mut limits = limits().await["limits"].clone();
        limits["follows_habits"] = json!(wanted);
        assert_eq!(stage.call_site(site, "PUT", "/limits", Some(limits)).await.unwrap().0, 204);
    };
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{site}/setup"))).await.unwrap();
    let learnt = "section[aria-label='What links taught']";
    browser.wait_for(learnt, "in running text told what is linked here").await.unwrap();
    let rule = browser.wait_for("label", "Openings fit better that are like this site's own links").await.unwrap();
    rule.click().await.unwrap();
    browser
        .wait_for("form[aria-label='Limits for links'] button", "Save the limits")
        .await
        .unwrap()
        .click()
        .await
        .unwrap();
    browser.wait_for(learnt, "The limits above say not to follow it.").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    browser.end().await.unwrap();
    let untaught = lead().await;
    assert!(taught > untaught + 5.0, "what is listed leads by {taught}, untaught by {untaught}");
    assert_eq!(limits().await["habits_of"], told["habits_of"], "what is known stays known");
    follow(true).await;
    assert!((lead().await - taught).abs() < 0.1);
    let anew = stage.second_server().await.unwrap();
    let client = http().unwrap();
    let elsewhere = async |number: &Value| -> Value {
        let address = anew.address(&format!("api/sites/{site}/pages/{number}/desk"));
        client.get(address).send().await.unwrap().json().await.unwrap()
    };
    let loaded = self::lead(&stage, site, elsewhere).await;
    assert!((loaded - taught).abs() < 0.1, "a server that loads the site anew says {loaded}, not {taught}");
    anew.stop().await;

    // What decisions taught hangs on what judged; whoever loads the site anew learns the same.
    for at in 0..4 {
        take_some(&stage, site, &format!("/evening-{}.html", REPORTS - 1 - at)).await;
    }
    let with_habits = limits().await["keeps"].as_f64().unwrap();
    assert!((with_habits - 1.0).abs() > 1e-3, "some decisions taught something");
    follow(false).await;
    let followed = limits().await;
    let anew = stage.second_server().await.unwrap();
    let address = anew.address(&format!("api/sites/{site}/limits"));
    let loaded: Value = client.get(address).send().await.unwrap().json().await.unwrap();
    assert_eq!(followed, loaded);
    follow(true).await;
    anew.stop().await;

    // A reading that finds the same learns nothing new, one that finds other links does.
    read_anew().await;
    assert_eq!(limits().await["habits_of"], told["habits_of"]);
    write_site(&folder, 20);
    read_anew().await;
    assert_eq!(limits().await["habits_of"], Value::Null);
    stage.strike().await;
}
