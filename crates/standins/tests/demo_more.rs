//! The larger demo: enough pages to go through, in two languages, with products that go together.

#![allow(clippy::unwrap_used)]

use std::path::{Path, PathBuf};
use std::time::Duration;

use strelm_standins::live_site::{Options, start};
use walkdir::WalkDir;

fn demo() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"))
}

/// Front matter and content of the further pages.
fn further(folder: &Path) -> Vec<(String, String)> {
    let files = WalkDir::new(folder).into_iter().flatten().filter(|entry| entry.file_type().is_file());
    let sources = files.map(|entry| std::fs::read_to_string(entry.path()).unwrap());
    sources
        .map(|source| {
            let (front, content) = source.strip_prefix("+++\n").unwrap().split_once("\n+++\n").unwrap();
            (front.to_owned(), content.to_owned())
        })
        .collect()
}

#[test]
fn there_is_enough_to_go_through() {
    let pages = further(&demo().join("more/pages"));
    let count = |passes: &dyn Fn(&(String, String)) -> bool| pages.iter().filter(|page| passes(page)).count();
    assert!(count(&|(front, _)| front.contains("language = \"de\"")) >= 12);
    assert!(count(&|(_, content)| !content.contains("<a ")) >= 20);
    assert!(pages.iter().all(|(_, content)| content.split_whitespace().count() > 30), "real prose");
    let products: Vec<_> = pages.iter().filter(|(front, _)| front.contains("type = \"product\"")).collect();
    assert!(products.len() >= 10);
    let complements =
        ["Barlow lens", "eyepiece", "planisphere", "red torch", "loan telescope", "solar filter", "tripod"];
    let with = products.iter().filter(|(_, content)| complements.iter().any(|name| content.contains(name)));
    assert!(with.count() >= 8, "products say what goes with them");
}

#[tokio::test]
async fn the_whole_demo_is_served_with_its_languages() {
    let state = tempfile::tempdir().unwrap();
    let seeds = vec![demo(), demo().join("more")];
    let options =
        Options { seeds, state: state.path().to_owned(), port: 0, token: "secret".into(), delay: Duration::ZERO };
    let site = tokio::task::spawn_blocking(|| start(options)).await.unwrap().unwrap();
    // Makes the provider of encryption known that every client looks for.
    strelm_sources::client::Client::new(strelm_sources::guard::AddressRules::with_loopback()).unwrap();
    let get = async |path: &str| {
        let address = format!("{}{path}", site.entry());
        reqwest::get(address).await.unwrap().text().await.unwrap()
    };
    let pages = get("sitemap.xml").await.matches("<loc>").count();
    assert!((150..200).contains(&pages), "{pages} pages");
    assert!(get("de/fernglas/").await.contains("<html lang=\"de\">"));
    assert!(get("guides/averted-vision/").await.contains("<html lang=\"en-GB\">"));
    assert!(get("glossary/").await.contains("/glossary/opposition/"), "lists have the further pages");
}
