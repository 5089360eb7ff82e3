//! A database with a small site, a site that answers what it is told to, and an edge between it and the test.

use std::io::Write;
use std::net::SocketAddr;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use flate2::Compression;
use flate2::write::GzEncoder;
use sqlx::PgPool;
use strelm_core::document::{ContentHash, Format};
use strelm_core::rules::{Handling, Leads, Phrase, Rule, RuleId};
use strelm_core::site::{Address, PageId, PageKind, Standing, Target, Validators};
use strelm_edge::{Edge, EdgeOptions};
use strelm_live::{LiveSites, Purpose};
use strelm_store::page::{self, ReadPage, Says, Source};
use strelm_store::rule::{self, KeptRule};
use strelm_store::site::{Settings, SiteSource};
use strelm_store::{SiteId, connect, site};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpListener;
use url::Url;

pub const LINKED: &str = "A <a href=\"/torch\">red torch</a> keeps eyes dark.";
pub const PLAIN: &str = "A red torch keeps eyes dark.";
pub const ARTICLE: &str = "<h2>Light</h2><p>A red torch keeps eyes dark.</p><p>Stars are far.</p>";

/// A page with the article in it.
pub fn page() -> String {
    format!("<!doctype html><html lang=en><title>Light</title><body><main>{ARTICLE}</main></body></html>")
}

/// What the site answers, piece by piece.
#[derive(Clone)]
pub enum Piece {
    Bytes(Vec<u8>),
    Wait(Duration),
}

type Answer = dyn Fn(&str) -> Vec<Piece> + Send + Sync;

/// What a test works with.
pub struct Stage {
    pub pool: PgPool,
    pub site: SiteId,
    pub edge: SocketAddr,
    pub http: reqwest::Client,
    answer: Arc<Mutex<Arc<Answer>>>,
    /// What was asked of the site: heads and bodies.
    asked: Arc<Mutex<Vec<String>>>,
    handle: actix_web::dev::ServerHandle,
    upstream: tokio::task::JoinHandle<()>,
}

/// An answer with these headers and this body.
pub fn answer(headers: &str, body: &[u8]) -> Vec<Piece> {
    let head = format!("HTTP/1.1 200 OK\r\ncontent-length: {}\r\nconnection: close\r\n{headers}\r\n", body.len());
    vec![Piece::Bytes([head.as_bytes(), body].concat())]
}

/// HTML with these headers.
pub fn html(headers: &str, body: &str) -> Vec<Piece> {
    answer(&format!("content-type: text/html; charset=utf-8\r\n{headers}"), body.as_bytes())
}

pub fn gzip(bytes: &[u8]) -> Vec<u8> {
    let mut encoder = GzEncoder::new(Vec::new(), Compression::default());
    encoder.write_all(bytes).unwrap();
    encoder.finish().unwrap()
}

fn read(path: &str, source: &str) -> ReadPage {
    ReadPage {
        address: Address::parse(&format!("https://sky.example/{path}")).unwrap(),
        kind: PageKind::Page,
        title: format!("Page {path}"),
        heading: None,
        category: None,
        language: "en".to_owned(),
        words: 10,
        crawled_hash: ContentHash::of(source),
        main_html: String::new(),
        source: Some(Source { text: source.to_owned(), format: Format::Html, hash: ContentHash::of(source) }),
        blocks: Vec::new(),
        links: Vec::new(),
        ids: Vec::new(),
        validators: Validators::default(),
        says: Says::default(),
        standing: Standing::default(),
    }
}

impl Stage {
    /// A site of two pages, `/light` with the article and `/torch`, and a rule that leads from red torches there.
    pub async fn set(pool: &PgPool) -> Self {
        Self::read_from(pool, SiteSource::Web { micropub: None }).await
    }

    /// The same, read from elsewhere.
    pub async fn read_from(pool: &PgPool, source: SiteSource) -> Self {
        let entry = Address::parse("https://sky.example/").unwrap();
        let settings = Settings::new("Sky", source);
        let (id, _) = site::add(pool, &entry, &settings).await.unwrap();
        let pages = [read("light", ARTICLE), read("torch", "<p>Torches shine. Their home is <em>light</em>.</p>")];
        page::put_all(pool, id, None, &pages, &Default::default()).await.unwrap();
        let leads = Target::Page(PageId(2));
        let rule = Rule::new(RuleId(0), vec![Phrase::words("red torch").unwrap()], leads.clone());
        rule::make(
            pool,
            id,
            &[KeptRule { rule: rule.leading(Leads::To(leads)), is_on: true, handling: Handling::Screened }],
        )
        .await
        .unwrap();
        let answer: Arc<Answer> = Arc::new(|_: &str| html("", &page()));
        let (answer, asked) = (Arc::new(Mutex::new(answer)), Arc::new(Mutex::new(Vec::new())));
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let upstream = Url::parse(&format!("http://{}/", listener.local_addr().unwrap())).unwrap();
        let answers = tokio::spawn(serve(listener, Arc::clone(&answer), Arc::clone(&asked)));
        let (handle, edge) = start(pool, id, upstream).await;
        let http = reqwest::Client::builder().redirect(reqwest::redirect::Policy::none()).no_gzip().no_brotli();
        let stage = Self {
            pool: pool.clone(),
            site: id,
            edge,
            http: http.build().unwrap(),
            answer,
            asked,
            handle,
            upstream: answers,
        };
        stage.until("/light", ">red torch</a>").await;
        stage
    }

    /// From now on the site answers so.
    pub fn answers(&self, answer: impl Fn(&str) -> Vec<Piece> + Send + Sync + 'static) {
        *self.answer.lock().unwrap() = Arc::new(answer);
        self.asked.lock().unwrap().clear();
    }

    /// What was asked of the site since it was told what to answer.
    pub fn asked(&self) -> Vec<String> {
        self.asked.lock().unwrap().clone()
    }

    pub fn address(&self, path: &str) -> String {
        format!("http://{}{path}", self.edge)
    }

    pub fn get(&self, path: &str) -> reqwest::RequestBuilder {
        self.http.get(self.address(path))
    }

    pub async fn text(&self, path: &str) -> String {
        self.get(path).send().await.unwrap().text().await.unwrap()
    }

    /// Asks until a page says so, and tells how long that took.
    pub async fn until(&self, path: &str, said: &str) -> Duration {
        let begun = Instant::now();
        loop {
            if self.text(path).await.contains(said) {
                return begun.elapsed();
            }
            assert!(begun.elapsed() < Duration::from_secs(20), "{path} does not say {said}");
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }

    /// The site is gone.
    pub fn lose_site(&self) {
        self.upstream.abort();
    }
}

impl Drop for Stage {
    fn drop(&mut self) {
        self.upstream.abort();
        drop(self.handle.stop(false));
    }
}

async fn start(pool: &PgPool, id: SiteId, upstream: Url) -> (actix_web::dev::ServerHandle, SocketAddr) {
    let (sender, receiver) = tokio::sync::oneshot::channel();
    let database = sqlx::ConnectOptions::to_url_lossy(&*pool.connect_options()).to_string();
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(async move {
            let pool = connect(&database, 4).await.unwrap();
            let options = EdgeOptions {
                site: site::get(&pool, id).await.unwrap().unwrap(),
                upstream,
                listener: std::net::TcpListener::bind("127.0.0.1:0").unwrap(),
                host: None,
                threads: 2,
                is_plain: false,
            };
            let live = Arc::new(LiveSites::new(64 << 20, Purpose::Passing).unwrap());
            let edge = Edge::start(pool, live, options).await.unwrap();
            sender.send((edge.server.handle(), edge.address)).unwrap();
            edge.run().await.unwrap();
        });
    });
    receiver.await.unwrap()
}

async fn serve(listener: TcpListener, answer: Arc<Mutex<Arc<Answer>>>, asked: Arc<Mutex<Vec<String>>>) {
    loop {
        let (mut stream, _) = listener.accept().await.unwrap();
        let (answer, asked) = (Arc::clone(&answer), Arc::clone(&asked));
        tokio::spawn(async move {
            let mut request = Vec::new();
            let mut piece = [0; 4096];
            // As far as the head, and the body that it speaks of.
            loop {
                let Ok(read) = stream.read(&mut piece).await else { return };
                if read == 0 {
                    return;
                }
                request.extend_from_slice(&piece[..read]);
                let text = String::from_utf8_lossy(&request).to_ascii_lowercase();
                let Some(end) = text.find("\r\n\r\n") else { continue };
                let length = text
                    .split("content-length: ")
                    .nth(1)
                    .and_then(|rest| rest.split('\r').next()?.parse::<usize>().ok());
                let is_whole = match length {
                    Some(length) => request.len() >= end + 4 + length,
                    None => !text.contains("transfer-encoding: chunked") || text.ends_with("0\r\n\r\n"),
                };
                if is_whole {
                    break;
                }
            }
            let request = String::from_utf8_lossy(&request).into_owned();
            asked.lock().unwrap().push(request.clone());
            let answer = Arc::clone(&answer.lock().unwrap());
            for piece in answer(&request) {
                match piece {
                    Piece::Wait(time) => tokio::time::sleep(time).await,
                    Piece::Bytes(bytes) => {
                        if stream.write_all(&bytes).await.is_err() {
                            return;
                        }
                        stream.flush().await.unwrap();
                    }
                }
            }
        });
    }
}
