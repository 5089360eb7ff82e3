//! Crawling a small, ill-behaved site: what is read, what is left alone, and that the site is never left.

#![allow(clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use actix_web::{App, HttpRequest, HttpResponse, HttpServer, web};
use strelm_core::document::Entrance;
use strelm_core::site::Address;
use strelm_core::site::Validators;
use strelm_sources::client::Client;
use strelm_sources::crawl::{CrawlError, CrawlEvent, CrawlLimits, CrawlStart, crawl, glance};
use strelm_sources::editing::SourceError;
use strelm_sources::fetch::{FetchError, FetchLimits, fetch};
use strelm_sources::guard::AddressRules;
use strelm_sources::micropub::Micropub;
use strelm_sources::pace::Patience;

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

fn client() -> Client {
    Client::new(AddressRules::with_loopback()).unwrap()
}

/// The usual limits, in a hurry.
fn limits() -> CrawlLimits {
    let patience = Patience { tries: 3, first_wait: Duration::from_millis(5), longest_wait: Duration::from_secs(2) };
    CrawlLimits { patience, ..CrawlLimits::default() }
}

async fn read(site: &Site, limits: CrawlLimits) -> (Vec<String>, Result<(), CrawlError>) {
    read_from(site, limits, CrawlStart::default()).await
}

async fn read_from(site: &Site, limits: CrawlLimits, start: CrawlStart) -> (Vec<String>, Result<(), CrawlError>) {
    let (sender, mut events) = tokio::sync::mpsc::channel(4);
    let (entry, client) = (site.entry.clone(), client());
    let crawling = tokio::spawn(async move { crawl(&client, &entry, start, limits, sender).await });
    let mut told = Vec::new();
    while let Some(event) = events.recv().await {
        told.extend(match event {
            CrawlEvent::Found(_) | CrawlEvent::Waits(_) | CrawlEvent::NamesInterface(_) => None,
            CrawlEvent::Unchanged(address) => Some(format!("unchanged {}", address.from_root())),
            CrawlEvent::Full(most) => Some(format!("full {most}")),
            CrawlEvent::Page(page) => Some(format!("page {}", page.address.from_root())),
            CrawlEvent::File { address, media_type } => Some(format!("file {} {media_type}", address.from_root())),
            CrawlEvent::Redirect { from, to } => Some(format!("redirect {} {}", from.from_root(), to.from_root())),
            CrawlEvent::Failed { address, error } => Some(format!("failed {}: {error}", address.from_root())),
            CrawlEvent::LeftOut { address, .. } => Some(format!("left out {}", address.from_root())),
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
    let (told, result) = read(&site, limits()).await;
    result.unwrap();
    let expected = [
        "failed /gone: the site answers with status 404 Not Found",
        &format!("failed /leaves: the address leads away from the site, to {outside_address}"),
        "failed /loop: there are more than 5 redirects in a row",
        "file /f.pdf application/pdf",
        "left out /private/p",
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
    let limits = CrawlLimits { most_pages: 40, ..limits() };
    let (told, result) = read(&serve(answers), limits).await;
    result.unwrap();
    assert_eq!(told.len(), 41);
    assert!(told.contains(&"full 40".to_owned()), "and says so");
}

#[tokio::test]
async fn an_entry_that_cannot_be_read_says_why() {
    let closed = serve(BTreeMap::from([("/robots.txt", (200, "text/plain", "User-agent: *\nDisallow: /".into()))]));
    let error = read(&closed, limits()).await.1.unwrap_err();
    assert!(error.to_string().starts_with("robots.txt of the site asks not to read"), "{error}");
    let broken = serve(BTreeMap::from([("/", (500, "text/html", String::new()))]));
    let error = read(&broken, limits()).await.1.unwrap_err();
    assert!(error.to_string().contains("cannot be read: the site answers with status 500"), "{error}");
    let picture = serve(BTreeMap::from([("/", (200, "image/png", String::new()))]));
    assert!(matches!(read(&picture, limits()).await.1, Err(CrawlError::EntryNotHtml(_))));
}

#[tokio::test]
async fn an_answer_beyond_the_limit_is_given_up() {
    let site = serve(BTreeMap::from([("/", html(&"x".repeat(100_000)))]));
    let limits = FetchLimits { most_bytes: 50_000, ..FetchLimits::default() };
    let result = fetch(&client(), &site.entry, limits, |_| true).await;
    assert!(matches!(result, Err(FetchError::TooLarge(50_000))));
}

#[tokio::test]
async fn answers_of_an_editing_interface_are_told_apart() {
    type Test = fn(&SourceError) -> bool;
    let cases: [(u16, &str, Test); 6] = [
        (401, "{}", |error| matches!(error, SourceError::Unauthorised)),
        (400, "{\"error\":\"invalid_request\"}", |error| matches!(error, SourceError::NotEditable)),
        (500, "{}", |error| matches!(error, SourceError::Busy { .. })),
        (422, "{\"error_description\":\"full\"}", |error| error.to_string().ends_with("full")),
        (200, "not json", |error| matches!(error, SourceError::Unintelligible(_))),
        (200, "{\"properties\":{\"content\":[\"plain\"]}}", |error| matches!(error, SourceError::NotEditable)),
    ];
    for (status, body, is_expected) in cases {
        let site = serve(BTreeMap::from([("/", (status, "application/json", body.to_owned()))]));
        let micropub = Micropub::new(client(), site.entry.as_url().clone(), "token".into());
        let error = micropub.source(&site.entry).await.unwrap_err();
        assert!(is_expected(&error), "{status} {body}: {error}");
    }
}

/// A site that answers each path with the next of its answers, the last one for ever.
fn serve_in_turn(turns: BTreeMap<&'static str, Vec<HttpAnswer>>) -> Address {
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let entry = Address::parse(&format!("http://{}/", listener.local_addr().unwrap())).unwrap();
    let turns = web::Data::new(std::sync::Mutex::new(turns));
    std::thread::spawn(move || {
        let app = move || {
            let answer =
                |request: HttpRequest, turns: web::Data<std::sync::Mutex<BTreeMap<&'static str, Vec<HttpAnswer>>>>| {
                    let mut turns = turns.lock().unwrap();
                    let turn = turns.get_mut(request.path()).map(|answers| match answers.len() {
                        1 => answers[0],
                        _ => answers.remove(0),
                    });
                    std::future::ready(match turn {
                        Some((status, after, body)) => {
                            let mut answer = HttpResponse::build(status.try_into().unwrap());
                            if let Some(after) = after {
                                answer.insert_header(("retry-after", after));
                            }
                            answer.content_type("text/html").body(body)
                        }
                        None => HttpResponse::NotFound().finish(),
                    })
                };
            App::new().app_data(turns.clone()).default_service(web::to(answer))
        };
        let server = HttpServer::new(app).workers(1).listen(listener).unwrap();
        actix_web::rt::System::new().block_on(server.run()).unwrap();
    });
    entry
}

/// Status, `Retry-After`, body.
type HttpAnswer = (u16, Option<&'static str>, &'static str);

fn site_at(entry: Address) -> Site {
    Site { entry, asked: Arc::default() }
}

#[tokio::test]
async fn what_may_pass_is_asked_for_again_and_a_wait_that_is_asked_for_is_kept() {
    let turns = BTreeMap::from([
        ("/", vec![(200, None, "<a href=/a>a</a><a href=/b>b</a><a href=/c>c</a>")]),
        ("/a", vec![(503, None, ""), (500, None, ""), (200, None, "at last")]),
        ("/b", vec![(429, Some("1"), ""), (200, None, "after a second")]),
        ("/c", vec![(500, None, "")]),
    ]);
    let begin = Instant::now();
    let (told, result) = read(&site_at(serve_in_turn(turns)), limits()).await;
    result.unwrap();
    let expected =
        ["failed /c: the site answers with status 500 Internal Server Error", "page /", "page /a", "page /b"];
    assert_eq!(told, expected);
    assert!(begin.elapsed() >= Duration::from_secs(1));
}

#[tokio::test]
async fn a_site_that_goes_down_is_given_up_with_what_was_read() {
    let links: &'static str =
        Box::leak((0..40).map(|n| format!("<a href=/p{n}>{n}</a>")).collect::<String>().into_boxed_str());
    let mut turns = BTreeMap::from([("/", vec![(200, None, links)])]);
    for n in 0..40 {
        let path: &'static str = Box::leak(format!("/p{n}").into_boxed_str());
        turns.insert(path, vec![(503, None, "")]);
    }
    let (told, result) = read(&site_at(serve_in_turn(turns)), limits()).await;
    assert!(matches!(result, Err(CrawlError::Down(_))), "{result:?}");
    assert!(told.contains(&"page /".to_owned()));
    assert!(told.len() < 30, "the rest was not asked for: {told:?}");
}

#[tokio::test]
async fn a_crawl_goes_on_with_what_waits_and_asks_for_nothing_twice() {
    let site = serve(BTreeMap::from([
        ("/", html("<a href=/a>a</a>")),
        ("/a", html("<a href=/b>b</a><a href=/c>c</a>")),
        ("/b", html("b")),
        ("/c", html("c")),
    ]));
    let at = |path: &str| Address::parse(&format!("{}{path}", site.entry)).unwrap();
    let start = CrawlStart { done: vec![site.entry.clone(), at("b")], waiting: vec![at("a")], ..CrawlStart::default() };
    let (told, result) = read_from(&site, limits(), start).await;
    result.unwrap();
    assert_eq!(told, ["page /a", "page /c"]);
}

#[tokio::test]
async fn requests_are_as_far_apart_as_the_site_asks() {
    let site = serve(BTreeMap::from([
        ("/", html("<a href=/a>a</a><a href=/b>b</a>")),
        ("/a", html("a")),
        ("/b", html("b")),
        ("/robots.txt", (200, "text/plain", "User-agent: *\nCrawl-delay: 0.3".into())),
    ]));
    let begin = Instant::now();
    let (told, result) = read(&site, limits()).await;
    result.unwrap();
    assert_eq!(told.len(), 3);
    assert!(begin.elapsed() >= Duration::from_millis(600), "{:?}", begin.elapsed());
}

#[tokio::test]
async fn addresses_that_are_not_allowed_are_never_asked() {
    let site = serve(BTreeMap::from([("/", html("secret"))]));
    let closed = Client::new(AddressRules::new(&[])).unwrap();
    for address in [site.entry.to_string(), format!("http://localhost:{}/", site.entry.as_url().port().unwrap())] {
        let address = Address::parse(&address).unwrap();
        let result = fetch(&closed, &address, FetchLimits::default(), |_| true).await;
        assert!(matches!(result, Err(FetchError::Blocked(_))), "{address}: {result:?}");
        let glanced = glance(&closed, &address, limits()).await.unwrap_err();
        assert!(glanced.to_string().contains("is not a public address"), "{glanced}");
    }
    assert_eq!(site.asked.load(Ordering::Relaxed), 0);
    let micropub = Micropub::new(closed, site.entry.as_url().clone(), "token".into());
    assert!(matches!(micropub.source(&site.entry).await, Err(SourceError::Blocked(_))));
}

#[tokio::test]
async fn a_glance_tells_what_would_be_read() {
    let site = serve(BTreeMap::from([
        (
            "/",
            html("<link rel=micropub href=/mp><a href=/a>a</a><a href=/a>again</a><a href=http://else.example/>x</a>"),
        ),
        ("/sitemap.xml", (200, "text/xml", "<urlset><url><loc>{base}/b</loc></url></urlset>".into())),
    ]));
    let seen = glance(&client(), &site.entry, limits()).await.unwrap();
    assert_eq!((seen.title.as_deref(), seen.listed, seen.linked), (Some("t"), 1, 1));
    assert_eq!(seen.micropub.unwrap().from_root(), "/mp");
}

#[tokio::test]
async fn a_version_that_is_known_is_not_sent_again() {
    let entry = {
        let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
        let entry = Address::parse(&format!("http://{}/", listener.local_addr().unwrap())).unwrap();
        std::thread::spawn(move || {
            let answer = |request: HttpRequest| {
                let known = request.headers().get("if-none-match").is_some_and(|tag| tag == "\"v1\"");
                std::future::ready(match (request.path(), known) {
                    ("/", true) => HttpResponse::NotModified().insert_header(("etag", "\"v1\"")).finish(),
                    ("/", false) => {
                        HttpResponse::Ok().insert_header(("etag", "\"v1\"")).content_type("text/html").body("x")
                    }
                    _ => HttpResponse::NotFound().finish(),
                })
            };
            let server = HttpServer::new(move || App::new().default_service(web::to(answer))).workers(1);
            actix_web::rt::System::new().block_on(server.listen(listener).unwrap().run()).unwrap();
        });
        entry
    };
    let site = site_at(entry.clone());
    assert_eq!(read(&site, limits()).await.0, ["page /"]);
    let known = Validators { etag: Some("\"v1\"".to_owned()), last_modified: None };
    let start = CrawlStart { validators: [(entry, known)].into(), ..CrawlStart::default() };
    assert_eq!(read_from(&site, limits(), start).await.0, ["unchanged /"]);
}

#[tokio::test]
async fn a_page_that_only_sends_on_is_another_address_of_where_it_sends() {
    let sends = "<meta http-equiv=refresh content='0; url=chapter.html#two'><p>It is over there.";
    let site = serve(BTreeMap::from([
        ("/", html("<a href=/old.html>Old</a><p>Words of the entry page.")),
        ("/old.html", html(sends)),
        ("/chapter.html", html("<h1>The second chapter</h1><p>Words of it.")),
    ]));
    let (told, result) = read(&site, CrawlLimits::default()).await;
    result.unwrap();
    assert_eq!(told, ["page /", "page /chapter.html", "redirect /old.html /chapter.html"]);
    // Of the entry page the editor is told; it stays one.
    let site = serve(BTreeMap::from([("/", html(sends)), ("/chapter.html", html("<p>Words of it."))]));
    assert_eq!(read(&site, CrawlLimits::default()).await.0, ["page /", "page /chapter.html"]);
}

#[tokio::test]
async fn a_listing_of_files_proposes_the_page_of_it_with_most_links_and_is_no_name() {
    let site = serve(BTreeMap::from([
        (
            "/",
            html(
                "<title>Index of /</title><h1>Index of /</h1><a href=?C=M>Date</a> <a href=../>Parent</a> \
                 <a href=a.html>a.html</a> <a href=manual/>manual/</a> <a href=more/>more/</a> <a href=x.css>x.css</a>",
            ),
        ),
        ("/a.html", html("<p>Words. <a href=/>Up</a>")),
        ("/manual/", html("<h1>Manual</h1><p>Words. <a href=/a.html>A</a> <a href=/manual/b.html>B</a>")),
        (
            "/more/",
            html("<title>Index of /more</title><h1>Index of /more</h1><a href=1>1</a> <a href=2>2</a> <a href=3>3</a>"),
        ),
    ]));
    let seen = glance(&client(), &site.entry, CrawlLimits::default()).await.unwrap();
    assert_eq!(seen.title, None);
    let (entrance, onward) = seen.entrance.unwrap();
    assert_eq!((entrance, onward.unwrap().from_root()), (Entrance::Listing, "/manual/".to_owned()));
}

#[tokio::test]
async fn feeds_refreshes_and_further_pages_are_read() {
    let site = serve(BTreeMap::from([
        (
            "/",
            (
                200,
                "text/html; charset=windows-1252",
                "<link rel=alternate type='application/atom+xml' href=/feed><meta http-equiv=refresh content='9; url=/later'>\
                 <link rel=next href=/2><title>Home</title>".to_owned(),
            ),
        ),
        ("/feed", (200, "application/atom+xml", "<feed><entry><link href='fed'/></entry></feed>".into())),
        ("/fed", (200, "text/html", "<title>Fed</title>".into())),
        ("/later", (200, "text/html", "<title>Later</title>".into())),
        ("/2", (200, "text/html", "<title>Second</title>".into())),
    ]));
    let (sender, mut events) = tokio::sync::mpsc::channel(100);
    let client = client();
    crawl(&client, &site.entry, CrawlStart::default(), CrawlLimits::default(), sender).await.unwrap();
    let mut titles = Vec::new();
    while let Some(event) = events.recv().await {
        if let CrawlEvent::Page(page) = event {
            titles.extend(page.document.head().title.clone());
        }
    }
    titles.sort();
    assert_eq!(titles, ["Fed", "Home", "Later", "Second"]);
}

#[tokio::test]
async fn a_frame_set_leads_on_to_its_frames_and_another_page_is_proposed() {
    let site = serve(BTreeMap::from([
        ("/", html("<frameset><frame src=/toc.html><frame src=/first.html></frameset>")),
        ("/toc.html", html("<a href=/first.html>First</a> <a href=/second.html>Second</a>")),
        ("/first.html", html("<p>First</p>")),
        ("/second.html", html("<p>Second</p>")),
    ]));
    let (told, result) = read(&site, CrawlLimits::default()).await;
    result.unwrap();
    assert_eq!(told, ["page /", "page /first.html", "page /second.html", "page /toc.html"]);
    let seen = glance(&client(), &site.entry, CrawlLimits::default()).await.unwrap();
    let (entrance, onward) = seen.entrance.unwrap();
    assert!(matches!(entrance, Entrance::Frames(frames) if frames.len() == 2));
    assert_eq!(onward.unwrap().from_root(), "/toc.html");
}
