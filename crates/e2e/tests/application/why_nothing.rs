//! A page without openings says why, and what to do about it.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};

/// A sentence with words for a link.
const NAMING: &str = "On cold nights we look at the Larkmoor observatory from the hill behind the mill.";

/// Pages with why nothing leads to them, and why nothing stands in them.
const PAGES: [(&str, &str, Option<&str>, &str); 8] = [
    ("index.html", "Start", None, "linked already"),
    ("torn.html", "Zephyr", Some("No other page has the words"), "never closed"),
    ("empty.html", "Quartz", Some("No other page has the words"), "no running text of its own"),
    ("plain.html", "Velvet", Some("No other page has the words"), "no words that name another page"),
    ("links.html", "Orchid", Some("No other page has the words"), "But for its links"),
    ("full.html", "Juniper", Some("No other page has the words"), "as many as its length allows"),
    ("barn.html", "Hazel barn", Some("One other page has its words, but it leads here already"), "no words that name"),
    (
        "observatory.html",
        "Larkmoor observatory",
        Some("4 other pages have some of its words"),
        "no words that name another page",
    ),
];

fn html(path: &str, title: &str) -> String {
    let link = "<a href=observatory.html>Larkmoor observatory</a>";
    let body = match path {
        "index.html" => format!(
            "<p>We keep the {link}, and write of what is seen in the Larkmoor observatory.</p>\
             <p>Below it is the <a href=barn.html>Hazel barn</a>; who sleeps in the Hazel barn is up early.</p>"
        ),
        "torn.html" => format!("<p><a name=top>It was dark.<p>{NAMING}<p>{NAMING} More of it tomorrow."),
        "empty.html" => String::new(),
        "links.html" => format!("<p>See the {link}.</p>"),
        "full.html" => format!("<p>{}</p>", format!("See the {link}. ").repeat(12)),
        _ => "<p>It rained until the morning, and nobody came.</p>".to_owned(),
    };
    format!("<!doctype html><html lang=en><title>{title}</title><main><h1>{title}</h1>{body}</main></html>")
}

#[sqlx::test(migrations = false)]
async fn a_page_without_openings_says_why(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("hill").unwrap();
    for (path, title, ..) in PAGES {
        std::fs::write(folder.join(path), html(path, title)).unwrap();
    }
    let site = json!({"name": "Hill", "source": {"kind": "folder", "path": folder, "address": "hill.example"}});
    let answer = http().unwrap().post(stage.address("api/sites")).json(&site).send().await.unwrap();
    let added: Value = answer.json().await.unwrap();
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let rows = pages["rows"].as_array().unwrap();
    assert_eq!(rows.len(), PAGES.len(), "{pages}");
    for (path, _, inbound, outbound) in PAGES {
        let address = format!("/{}", if path == "index.html" { "" } else { path });
        let row = rows.iter().find(|row| row["path"] == address).unwrap();
        let (_, desk) = stage.call_site(site, "GET", &format!("/pages/{}/desk", row["number"]), None).await.unwrap();
        let why = |side: &str| desk[side].as_str().unwrap_or_default().to_owned();
        assert!(why("nothing_out").contains(outbound), "{path}: {desk}");
        assert!(inbound.is_none_or(|inbound| why("nothing_in").contains(inbound)), "{path}: {desk}");
    }
    stage.strike().await;
}
