//! Crawling a small, ill-behaved site: what is read, what is left alone, and that the site is never left.

#![allow(clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use actix_web::{App, HttpRequest, HttpResponse, HttpServer, web};
use strelm_core::site::Address;
use strelm_sources::client::client;
use strelm_sources::crawl::{CrawlError, CrawlEvent, CrawlLimits, crawl};
use strelm_sources::fetch::{FetchError, FetchLimits, fetch};
use strelm_sources::micropub::{Micropub, MicropubError};

/// What each path of the test's site answers: status, media type or place to go on to, body.
type Answers = BTreeMap<&'static str, (u16, &'static str, String)>;

struct Site {
    entry: Address,
    asked: Arc<AtomicUsize>,
}

/// Serves until the test ends. `{base}` in bodies and redirects becomes the site's own address.
fn serve(answers: Answers) -> Site {
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let base = format!("http://{}", listener.local_addr().unwrap());
    let entry = Address::parse(&format!("{base}/")).unwrap();
    let asked = Arc::new(AtomicUsize::new(0));
    let (data, counter) = (web::Data::new((answers, base)), Arc::clone(&asked));
    std::thread::spawn(move || {
        let app = move || {
            let counter = Arc::clone(&counter);
            let answer = move |request: HttpRequest, data: web::Data<(Answers, String)>| {
                counter.fetch_add(1, Ordering::Relaxed);
                let response = match data.0.get(request.path()) {
                    Some((status, to, _)) if (300..400).contains(status) => {
                        HttpResponse::build((*status).try_into().unwrap())
                            .insert_header(("location", to.replace("{base}", &data.1)))
                            .finish()
                    }
                    Some((status, kind, body)) => HttpResponse::build((*status).try_into().unwrap())
                        .content_type(*kind)
                        .body(body.replace("{base}", &data.1)),
                    None => HttpResponse::NotFound().finish(),
                };
                std::future::ready(response)
            };
            App::new().app_data(data.clone()).default_service(web::to(answer))
        };
        let server = HttpServer::new(app).workers(1).listen(listener).unwrap();
        actix_web::rt::System::new().block_on(server.run()).unwrap();
    });
    Site { entry, asked }
}

fn html(body: &str) -> (u16, &'static str, String) {
    (200, "text/html; charset=utf-8", format!("<!doctype html><title>t</title>{body}"))
}

async fn read(site: &Site, limits: CrawlLimits) -> (Vec<String>, Result<(), CrawlError>) {
    let (sender, mut events) = tokio::sync::mpsc::channel(4);
    let (entry, client) = (site.entry.clone(), client().unwrap());
    let crawling = tokio::spawn(async move { crawl(&client, &entry, limits, sender).await });
    let mut told = Vec::new();
    while let Some(event) = events.recv().await {
        told.extend(match event {
            CrawlEvent::Known(_) => None,
            CrawlEvent::Page(page) => Some(format!("page {}", page.address.from_root())),
            CrawlEvent::File { address, media_type } => Some(format!("file {} {media_type}", address.from_root())),
            CrawlEvent::Redirect { from, to } => Some(format!("redirect {} {}", from.from_root(), to.from_root())),
            CrawlEvent::Failed { address, error } => Some(format!("failed {}: {error}", address.from_root())),
            CrawlEvent::Disallowed(address) => Some(format!("disallowed {}", address.from_root())),
        });
    }
    told.sort();
    (told, crawling.await.unwrap())
}

#[tokio::test]
async fn everything_allowed_is_read_once_and_nothing_else() {
    let outside = serve(BTreeMap::from([("/", html("<a href=/x>x</a>"))]));
    let outside_address: &'static str = Box::leak(outside.entry.as_str().to_owned().into_boxed_str());
    let site = serve(BTreeMap::from([
        (
            "/",
            html(&format!(
                "<a href=a>a</a><a href='#x'>x</a><a href={outside_address}>out</a><a href=/private/p>p</a>"
            )),
        ),
        (
            "/a",
            html("<a href=/>home</a><a href=/moved>m</a><a href=/leaves>l</a><a href=/f.pdf>f</a><a href=/gone>g</a>"),
        ),
        ("/b", html("listed only")),
        ("/moved", (301, "/b", String::new())),
        ("/leaves", (302, outside_address, String::new())),
        ("/f.pdf", (200, "application/pdf", "%PDF".into())),
        ("/loop", (302, "/loop2", String::new())),
        ("/loop2", (302, "/loop", String::new())),
        ("/robots.txt", (200, "text/plain", "User-agent: *\nDisallow: /private/\nSitemap: {base}/index.xml".into())),
        (
            "/index.xml",
            (200, "text/xml", "<sitemapindex><sitemap><loc>{base}/pages.xml</loc></sitemap></sitemapindex>".into()),
        ),
        (
            "/pages.xml",
            (
                200,
                "text/xml",
                "<urlset><url><loc>{base}/b</loc></url><url><loc>{base}/loop</loc></url></urlset>".into(),
            ),
        ),
        ("/sitemap.xml", (200, "text/xml", "this is no sitemap".into())),
    ]));
    let (told, result) = read(&site, CrawlLimits::default()).await;
    result.unwrap();
    let expected = [
        "disallowed /private/p",
        "failed /gone: the site answers with status 404 Not Found",
        &format!("failed /leaves: the address leads away from the site, to {outside_address}"),
        "failed /loop: there are more than 5 redirects in a row",
        "file /f.pdf application/pdf",
        "page /",
        "page /a",
        "page /b",
        "redirect /moved /b",
    ];
    assert_eq!(told, expected);
    assert_eq!(outside.asked.load(Ordering::Relaxed), 0, "the other site was never asked");
}

#[tokio::test]
async fn an_endless_site_ends_at_the_limit() {
    let mut answers = BTreeMap::new();
    let links: String = (0..500).map(|n| format!("<a href='/page?n={n}'>{n}</a>")).collect();
    answers.insert("/", html(&links));
    answers.insert("/page", html("page"));
    let limits = CrawlLimits { most_pages: 40, ..CrawlLimits::default() };
    let (told, result) = read(&serve(answers), limits).await;
    result.unwrap();
    assert_eq!(told.len(), 40);
}

#[tokio::test]
async fn an_entry_that_cannot_be_read_says_why() {
    let closed = serve(BTreeMap::from([("/robots.txt", (200, "text/plain", "User-agent: *\nDisallow: /".into()))]));
    let error = read(&closed, CrawlLimits::default()).await.1.unwrap_err();
    assert!(error.to_string().starts_with("robots.txt of the site asks not to read"), "{error}");
    let broken = serve(BTreeMap::from([("/", (500, "text/html", String::new()))]));
    let error = read(&broken, CrawlLimits::default()).await.1.unwrap_err();
    assert!(error.to_string().contains("cannot be read: the site answers with status 500"), "{error}");
    let picture = serve(BTreeMap::from([("/", (200, "image/png", String::new()))]));
    assert!(matches!(read(&picture, CrawlLimits::default()).await.1, Err(CrawlError::EntryNotHtml(_))));
}

#[tokio::test]
async fn an_answer_beyond_the_limit_is_given_up() {
    let site = serve(BTreeMap::from([("/", html(&"x".repeat(100_000)))]));
    let limits = FetchLimits { most_bytes: 50_000, ..FetchLimits::default() };
    let result = fetch(&client().unwrap(), &site.entry, limits, |_| true).await;
    assert!(matches!(result, Err(FetchError::TooLarge(50_000))));
}

#[tokio::test]
async fn answers_of_an_editing_interface_are_told_apart() {
    type Test = fn(&MicropubError) -> bool;
    let cases: [(u16, &str, Test); 5] = [
        (401, "{}", |error| matches!(error, MicropubError::Unauthorised)),
        (400, "{\"error\":\"invalid_request\"}", |error| matches!(error, MicropubError::NotEditable)),
        (500, "{\"error_description\":\"full\"}", |error| error.to_string().ends_with("full")),
        (200, "not json", |error| matches!(error, MicropubError::Unintelligible(_))),
        (200, "{\"properties\":{\"content\":[\"plain\"]}}", |error| matches!(error, MicropubError::NotEditable)),
    ];
    for (status, body, is_expected) in cases {
        let site = serve(BTreeMap::from([("/", (status, "application/json", body.to_owned()))]));
        let micropub = Micropub::new(client().unwrap(), site.entry.as_url().clone(), "token".into());
        let error = micropub.source(&site.entry).await.unwrap_err();
        assert!(is_expected(&error), "{status} {body}: {error}");
    }
}
