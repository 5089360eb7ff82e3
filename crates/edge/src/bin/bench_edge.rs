//! Measures an edge: pages of a folder asked for through it, with rules and as they come, in turns. `cargo xtask bench edge` runs
//! it. Prints a line for each figure: what, of which, how much.

#![allow(clippy::print_stdout)]

use std::collections::HashMap;
use std::io;
use std::path::{Path, PathBuf};
use std::process::{Child, Command};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use actix_web::web::{Bytes, Data, to};
use actix_web::{App, HttpRequest, HttpResponse, HttpServer};
use strelm_core::document::{ContentHash, Document, Format, Region};
use strelm_core::language::words;
use strelm_core::rules::{Handling, Leads, Phrase, Rule, RuleId};
use strelm_core::site::{Address, PageId, PageKind, Standing, Target, Validators};
use strelm_store::page::{self, ReadPage, Says, Source};
use strelm_store::rule::{self, KeptRule};
use strelm_store::site::{self, Settings, SiteSource};
use strelm_store::{PgPool, SiteId, connect, migrate};

const RULES: usize = 500;
const MOST_PAGES: usize = 400;
/// Readers at the same time, and how long one round lasts.
const READERS: usize = 8;
const ROUND: Duration = Duration::from_secs(4);
const ROUNDS: usize = 5;
/// Pages that are held open half way to weigh a connection.
const HELD: usize = 200;
/// A slow page comes in pieces of this size.
const PIECE: usize = 16 << 10;

type Error = Box<dyn std::error::Error + Send + Sync>;

/// The pages by their paths; `is_slow` lets each stop half way until it is let go.
struct Pages {
    pages: HashMap<String, Bytes>,
    is_slow: AtomicBool,
}

struct EdgeProcess {
    child: Child,
    address: String,
}

impl Drop for EdgeProcess {
    fn drop(&mut self) {
        let _ = (self.child.kill(), self.child.wait());
    }
}

fn main() -> Result<(), Error> {
    let mut arguments = std::env::args().skip(1);
    let (Some(strelm), Some(folder)) = (arguments.next(), arguments.next()) else {
        return Err("bench_edge STRELM FOLDER, with the database in STRELM_DATABASE".into());
    };
    // A second installation is refused and harmless.
    let _ = rustls::crypto::ring::default_provider().install_default();
    actix_web::rt::System::new().block_on(measure(Path::new(&strelm), Path::new(&folder)))
}

async fn measure(strelm: &Path, folder: &Path) -> Result<(), Error> {
    let mut read = Vec::new();
    html_files(folder, &mut read)?;
    read.sort();
    read.truncate(MOST_PAGES);
    let pages: Vec<(String, String)> = read
        .iter()
        .filter_map(|file| {
            let path = format!("/{}", file.strip_prefix(folder).ok()?.display());
            Some((path, std::fs::read_to_string(file).ok()?))
        })
        .collect();
    let bytes: usize = pages.iter().map(|(_, text)| text.len()).sum();
    println!("pages\t{}\t{bytes}", pages.len());
    let pool = connect(&std::env::var("STRELM_DATABASE")?, 4).await?;
    migrate(&pool).await?;
    fill(&pool, &pages).await?;
    let shared = Data::new(Pages {
        pages: pages.iter().map(|(path, text)| (path.clone(), Bytes::from(text.clone()))).collect(),
        is_slow: AtomicBool::new(false),
    });
    let at_site = Data::clone(&shared);
    let server = HttpServer::new(move || App::new().app_data(at_site.clone()).default_service(to(answer)));
    let listener = std::net::TcpListener::bind("127.0.0.1:0")?;
    let upstream = format!("http://{}", listener.local_addr()?);
    actix_web::rt::spawn(server.workers(2).disable_signals().listen(listener)?.run());
    let plain = start(strelm, &upstream, &["--as-it-is"]).await?;
    let ruled = start(strelm, &upstream, &[]).await?;
    let paths: Arc<Vec<String>> = Arc::new(pages.iter().map(|(path, _)| path.clone()).collect());
    // Once for what is worked out on the first visit.
    let links = visit_all(&ruled, &paths, &pages).await?;
    println!("links\t{RULES}\t{links}");
    let mut rounds: Vec<(f64, f64)> = Vec::new();
    for _ in 0..ROUNDS {
        rounds.push((throughput(&plain, &paths).await?, throughput(&ruled, &paths).await?));
    }
    for (plain, ruled) in &rounds {
        println!("throughput\t{plain:.0}\t{ruled:.0}");
    }
    shared.is_slow.store(true, Ordering::Relaxed);
    for (name, edge) in [("plain", &plain), ("ruled", &ruled)] {
        println!("first byte\t{name}\t{:.3}", first_byte(edge, &paths).await?);
    }
    for (name, edge) in [("plain", &plain), ("ruled", &ruled)] {
        println!("connection\t{name}\t{:.0}", connection(edge, &paths).await?);
    }
    Ok(())
}

fn html_files(folder: &Path, found: &mut Vec<PathBuf>) -> io::Result<()> {
    for entry in std::fs::read_dir(folder)? {
        let path = entry?.path();
        if path.is_dir() {
            html_files(&path, found)?;
        } else if path.extension().is_some_and(|ending| ending == "html") {
            found.push(path);
        }
    }
    Ok(())
}

/// The site as it was read, with rules out of its own words.
async fn fill(pool: &PgPool, pages: &[(String, String)]) -> Result<SiteId, Error> {
    let entry = Address::parse("https://manual.example/")?;
    let (id, _) = site::add(pool, &entry, &Settings::new("Manual", SiteSource::Web { micropub: None })).await?;
    let mut read = Vec::new();
    let mut phrases: Vec<String> = Vec::new();
    for (path, text) in pages {
        let document = Document::from_html(text.as_str());
        let block = document
            .blocks()
            .iter()
            .filter(|block| block.region == Region::Content)
            .max_by_key(|block| block.text.len());
        let mut long = block.into_iter().flat_map(|block| words(document.text().slice(block.text)));
        phrases.extend(long.find(|word| word.text.len() > 7).map(|word| word.text.to_owned()));
        read.push(ReadPage {
            address: Address::parse(&format!("https://manual.example{path}"))?,
            kind: PageKind::Page,
            title: path.clone(),
            heading: None,
            category: None,
            language: "en".to_owned(),
            words: 100,
            crawled_hash: ContentHash::of(text),
            main_html: String::new(),
            source: Some(Source { text: text.clone(), format: Format::Html, hash: ContentHash::of(text) }),
            blocks: Vec::new(),
            links: Vec::new(),
            ids: Vec::new(),
            validators: Validators::default(),
            says: Says::default(),
            standing: Standing::default(),
        });
    }
    page::put_all(pool, id, None, &read, &Default::default()).await?;
    phrases.sort();
    phrases.dedup();
    let rule = |(at, phrase): (usize, &String)| {
        let target = Target::Page(PageId(u32::try_from(at % pages.len() + 1).ok()?));
        let rule = Rule::new(RuleId(0), vec![Phrase::words(phrase).ok()?], target.clone());
        Some(KeptRule { rule: rule.leading(Leads::To(target)), is_on: true, handling: Handling::Screened })
    };
    let rules: Vec<_> = phrases.iter().enumerate().filter_map(rule).take(RULES).collect();
    rule::make(pool, id, &rules).await?;
    Ok(id)
}

async fn answer(request: HttpRequest, pages: Data<Pages>) -> HttpResponse {
    let Some(page) = pages.pages.get(request.path()) else { return HttpResponse::NotFound().finish() };
    let mut answer = HttpResponse::Ok();
    answer.content_type("text/html");
    if !pages.is_slow.load(Ordering::Relaxed) {
        return answer.body(page.clone());
    }
    let first = page.slice(..page.len().min(PIECE));
    let pieces = futures::stream::unfold(Some((first, pages)), |state| async move {
        let (piece, pages) = state?;
        if piece.is_empty() {
            while pages.is_slow.load(Ordering::Relaxed) {
                tokio::time::sleep(Duration::from_millis(50)).await;
            }
            return None;
        }
        Some((Ok::<_, io::Error>(piece), Some((Bytes::new(), pages))))
    });
    answer.streaming(pieces)
}

async fn start(strelm: &Path, upstream: &str, more: &[&str]) -> Result<EdgeProcess, Error> {
    let port = std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
    let listen = format!("127.0.0.1:{port}");
    let mut command = Command::new(strelm);
    command.args(["edge", "--site", "Manual", "--upstream", upstream, "--listen", &listen]).args(more);
    let child = command.env("STRELM_LOG", "text,warn").spawn()?;
    let edge = EdgeProcess { child, address: format!("http://{listen}") };
    let begun = Instant::now();
    while reqwest::get(format!("{}/none", edge.address)).await.is_err() {
        if begun.elapsed() > Duration::from_secs(20) {
            return Err("the edge does not start".into());
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    // Until the site is in its memory.
    tokio::time::sleep(Duration::from_secs(2)).await;
    Ok(edge)
}

/// How many links came to all pages together.
async fn visit_all(edge: &EdgeProcess, paths: &[String], pages: &[(String, String)]) -> Result<usize, Error> {
    let http = reqwest::Client::new();
    let mut links = 0;
    for (path, (_, text)) in paths.iter().zip(pages) {
        let got = http.get(format!("{}{path}", edge.address)).send().await?.text().await?;
        links += got.matches("<a ").count() - text.matches("<a ").count();
    }
    Ok(links)
}

/// Bytes of pages in a second.
async fn throughput(edge: &EdgeProcess, paths: &Arc<Vec<String>>) -> Result<f64, Error> {
    let (bytes, begun) = (Arc::new(AtomicUsize::new(0)), Instant::now());
    let mut readers = Vec::new();
    for reader in 0..READERS {
        let (paths, bytes, address) = (Arc::clone(paths), Arc::clone(&bytes), edge.address.clone());
        readers.push(tokio::spawn(async move {
            let http = reqwest::Client::new();
            for path in paths.iter().cycle().skip(reader * 37) {
                let Ok(mut got) = http.get(format!("{address}{path}")).send().await else { return };
                while let Ok(Some(piece)) = got.chunk().await {
                    bytes.fetch_add(piece.len(), Ordering::Relaxed);
                }
                if begun.elapsed() > ROUND {
                    return;
                }
            }
        }));
    }
    for reader in readers {
        reader.await?;
    }
    Ok(bytes.load(Ordering::Relaxed) as f64 / begun.elapsed().as_secs_f64())
}

/// Milliseconds until the first piece of a page that stops half way, the median.
async fn first_byte(edge: &EdgeProcess, paths: &[String]) -> Result<f64, Error> {
    let http = reqwest::Client::new();
    let mut times = Vec::new();
    for path in paths.iter().cycle().take(200) {
        let begun = Instant::now();
        let mut got = http.get(format!("{}{path}", edge.address)).send().await?;
        got.chunk().await?.ok_or("a page is empty")?;
        times.push(begun.elapsed().as_secs_f64() * 1e3);
    }
    times.sort_by(f64::total_cmp);
    times.get(times.len() / 2).copied().ok_or_else(|| "there are no pages".into())
}

/// Bytes of memory for a connection whose page is half way.
async fn connection(edge: &EdgeProcess, paths: &[String]) -> Result<f64, Error> {
    let before = resident(edge.child.id())?;
    let mut held = Vec::new();
    for path in paths.iter().cycle().take(HELD) {
        let http = reqwest::Client::new();
        let mut got = http.get(format!("{}{path}", edge.address)).send().await?;
        got.chunk().await?;
        held.push((http, got));
    }
    let after = resident(edge.child.id())?;
    drop(held);
    tokio::time::sleep(Duration::from_secs(1)).await;
    Ok((after - before) / HELD as f64)
}

fn resident(process: u32) -> Result<f64, Error> {
    let status = std::fs::read_to_string(format!("/proc/{process}/status"))?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).ok_or("there is no VmRSS")?;
    let kilobytes: f64 = line.trim().trim_end_matches("kB").trim().parse()?;
    Ok(kilobytes * 1024.0)
}
