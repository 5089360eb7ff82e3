//! The stand-in's editing interface keeps to Micropub, and its state to the disk.

#![allow(clippy::unwrap_used, clippy::panic)]

use std::path::{Path, PathBuf};
use std::time::Duration;

use serde_json::{Value, json};
use strelm_standins::live_site::{Options, PageFile, Running, Shelf, ShelfError, start};

fn demo() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"))
}

fn site(state: &Path) -> Running {
    start(Options {
        seeds: vec![demo()],
        state: state.to_owned(),
        port: 0,
        token: "good".into(),
        delay: Duration::ZERO,
    })
    .unwrap()
}

struct Reply {
    status: u16,
    etag: Option<String>,
    body: Value,
}

async fn ask(site: &Running, query: &str, token: &str) -> Reply {
    let client = http();
    reply(client.get(format!("{}?{query}", site.micropub())).bearer_auth(token).send().await.unwrap()).await
}

async fn tell(site: &Running, body: Value, if_match: Option<&str>) -> Reply {
    let client = http();
    let mut request = client.post(site.micropub()).bearer_auth("good").json(&body);
    if let Some(version) = if_match {
        request = request.header("if-match", version);
    }
    reply(request.send().await.unwrap()).await
}

async fn reply(answer: strelm_sources::client::Response) -> Reply {
    let etag = answer.headers().get("etag").map(|tag| tag.to_str().unwrap().to_owned());
    Reply { status: answer.status().as_u16(), etag, body: answer.json().await.unwrap_or(Value::Null) }
}

fn update(url: &str, html: &str) -> Value {
    json!({"action": "update", "url": url, "replace": {"content": [{"html": html}]}})
}

#[tokio::test]
async fn queries_need_the_token_and_know_config_and_source() {
    let state = tempfile::tempdir().unwrap();
    let site = site(state.path());
    let refused = ask(&site, "q=config", "bad").await;
    assert_eq!((refused.status, &refused.body["error"]), (401, &json!("unauthorized")));
    let config = ask(&site, "q=config", "good").await;
    assert_eq!((config.status, &config.body["q"]), (200, &json!(["config", "source"])));
    let url = format!("{}guides/collimation/", site.entry());
    let source = ask(&site, &format!("q=source&url={url}"), "good").await;
    let html = source.body["properties"]["content"][0]["html"].as_str().unwrap();
    assert!(html.starts_with("<p>A Newtonian telescope") && source.etag.is_some());
    for query in
        ["q=source", "q=source&url=https://other.example/guides/collimation/", "q=source&url=/tag/moon/", "q=x", ""]
    {
        let refused = ask(&site, query, "good").await;
        assert_eq!((refused.status, &refused.body["error"]), (400, &json!("invalid_request")), "{query}");
    }
}

#[tokio::test]
async fn an_update_replaces_the_content_byte_for_byte_and_outlives_a_restart() {
    let state = tempfile::tempdir().unwrap();
    let html = "<p>Ünïcode &amp; \r\n  spaces\t</p>\n";
    {
        let site = site(state.path());
        assert_eq!(tell(&site, update("/guides/collimation/", html), None).await.status, 204);
        let page = http();
        let shown =
            page.get(format!("{}guides/collimation/", site.entry())).send().await.unwrap().text().await.unwrap();
        assert!(shown.contains(&format!("<div class=\"e-content\">{html}</div>")));
        assert!(shown.contains("<h1 class=\"p-name\">Collimation</h1>"), "the front matter stays");
    }
    let site = site(state.path());
    let source = ask(&site, "q=source&url=/guides/collimation/", "good").await;
    assert_eq!(source.body["properties"]["content"][0]["html"], html);
}

#[tokio::test]
async fn an_update_of_another_version_is_refused() {
    let state = tempfile::tempdir().unwrap();
    let site = site(state.path());
    let old = ask(&site, "q=source&url=/guides/collimation/", "good").await.etag.unwrap();
    assert_eq!(tell(&site, update("/guides/collimation/", "<p>one</p>"), Some(&old)).await.status, 204);
    assert_eq!(tell(&site, update("/guides/collimation/", "<p>two</p>"), Some(&old)).await.status, 412);
    let new = ask(&site, "q=source&url=/guides/collimation/", "good").await;
    assert_eq!(new.body["properties"]["content"][0]["html"], "<p>one</p>");
    assert_ne!(new.etag.unwrap(), old);
}

#[tokio::test]
async fn what_is_no_update_of_content_is_refused() {
    let state = tempfile::tempdir().unwrap();
    let site = site(state.path());
    let wrong = [
        json!({"action": "delete", "url": "/guides/collimation/"}),
        json!({"action": "update", "url": "/guides/collimation/", "replace": {"name": ["x"]}}),
        json!({"action": "update", "url": "/guides/collimation/", "replace": {"content": ["plain text"]}}),
        update("/nowhere/", "<p>x</p>"),
        update("https://other.example/guides/collimation/", "<p>x</p>"),
    ];
    for body in wrong {
        let refused = tell(&site, body.clone(), None).await;
        assert_eq!((refused.status, &refused.body["error"]), (400, &json!("invalid_request")), "{body}");
    }
}

#[tokio::test]
async fn readers_get_pages_archives_pictures_and_a_polite_nothing() {
    let state = tempfile::tempdir().unwrap();
    let site = site(state.path());
    let client = http();
    let get = async |path: &str| {
        let answer = client.get(format!("{}{path}", site.entry())).send().await.unwrap();
        (answer.status().as_u16(), answer.text().await.unwrap())
    };
    let (status, home) = get("").await;
    assert_eq!(status, 200);
    assert!(home.contains("<nav aria-label=\"Main\">") && home.contains("<link rel=\"micropub\" href=\"/micropub\">"));
    let (_, archive) = get("category/technique/").await;
    assert!(archive.contains("Star hopping") && !archive.contains("Averted vision"));
    assert_eq!(get("guides/collimation").await.0, 301, "with a slash at the end");
    assert_eq!(get("media/orion.svg").await.0, 200);
    assert_eq!(get("media/..%2fpages%2findex.html").await.0, 404);
    let (status, nothing) = get("no/such/page/").await;
    assert!(status == 404 && nothing.contains("below the horizon"));
    let (_, sitemap) = get("sitemap.xml").await;
    let strelm_formats::sitemap::Sitemap::Pages(listed) = strelm_formats::sitemap::read(&sitemap).unwrap() else {
        panic!("not a list of pages")
    };
    assert!(listed.len() > 50 && listed.iter().all(|address| address.starts_with(&site.entry())));
}

#[test]
fn a_page_file_needs_front_matter_that_is_understood() {
    for wrong in
        ["<p>x</p>", "+++\ntitle = \"x\"\n<p>", "+++\ntitle = \"x\"\n+++\n", "+++\ntitle = 1\ntype = \"page\"\n+++\n"]
    {
        assert!(PageFile::parse(wrong).is_err(), "{wrong}");
    }
    let source = "+++\ntitle = \"x\" # kept\ntype = \"post\"\n+++\n<p>+++\n</p>";
    let page = PageFile::parse(source).unwrap();
    assert_eq!((page.content.as_str(), page.to_source().as_str()), ("<p>+++\n</p>", source));
    assert_eq!(page.with_content("").to_source(), "+++\ntitle = \"x\" # kept\ntype = \"post\"\n+++\n");
}

#[test]
fn a_shelf_says_which_page_is_not_there() {
    let state = tempfile::tempdir().unwrap();
    let shelf = Shelf::open(&[demo()], state.path()).unwrap();
    assert!(matches!(shelf.replace("/x/", "", None), Err(ShelfError::NoPage(path)) if path == "/x/"));
    assert!(matches!(shelf.replace("/", "", Some("\"old\"")), Err(ShelfError::OtherVersion)));
    assert!(shelf.page("/guides/").is_some() && shelf.page("/guides").is_none());
}

/// A client that follows no redirects.
fn http() -> reqwest::Client {
    // Makes the provider of encryption known that every client looks for.
    strelm_sources::client::Client::new(strelm_sources::guard::AddressRules::with_loopback()).unwrap();
    reqwest::Client::builder().redirect(reqwest::redirect::Policy::none()).build().unwrap()
}
