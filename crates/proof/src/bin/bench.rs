//! `bench FOLDER…`: how fast documents are read and edited, beside libraries that do less, all in one run on one thread.

use std::path::PathBuf;
use std::time::Instant;

use anyhow::bail;
use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use lol_html::{HtmlRewriter, Settings, element};
use markup5ever_rcdom::RcDom;
use strelm_core::document::{Document, Edit, LinkTarget};
use strelm_proof::documents::read_folder;
use strelm_proof::hostile::Hostile;
use strelm_proof::sample;

/// Machines are not alone: what is compared takes turns, and the best round of each counts.
const ROUNDS: usize = 9;
const LINKS: usize = 20;

fn main() -> anyhow::Result<()> {
    let folders: Vec<PathBuf> = std::env::args_os().skip(1).map(PathBuf::from).collect();
    if folders.is_empty() {
        bail!("name the folders with pages to measure on");
    }
    for folder in folders {
        let pages = read_folder(&folder)?;
        let bytes: usize = pages.iter().map(String::len).sum();
        println!("{}: {} pages, {:.1} MB", folder.display(), pages.len(), bytes as f64 / 1e6);
        measure(&pages, bytes);
    }
    println!("hostile pages, nanoseconds a byte                64 KB      1 MB     ratio");
    for hostile in Hostile::ALL {
        flatness(&hostile, |page| Document::from_html(page).links().len());
    }
    println!("hostile Markdown");
    for hostile in Hostile::MARKDOWN {
        flatness(&hostile, |page| Document::from_markdown(page).links().len());
    }
    Ok(())
}

/// Megabytes a second of each run.
fn throughputs<const N: usize>(bytes: usize, runs: [&dyn Fn() -> usize; N]) -> [f64; N] {
    let mut best = [f64::MAX; N];
    for _ in 0..ROUNDS {
        for (best, run) in best.iter_mut().zip(runs) {
            let start = Instant::now();
            std::hint::black_box(run());
            *best = best.min(start.elapsed().as_secs_f64());
        }
    }
    best.map(|seconds| bytes as f64 / seconds / 1e6)
}

fn measure(pages: &[String], bytes: usize) {
    let [pass, dom, ours] = throughputs(
        bytes,
        [
            &|| pages.iter().map(|page| pass_through(page)).sum(),
            &|| pages.iter().map(|page| tree_of(page)).sum(),
            &|| pages.iter().map(|page| Document::from_html(page.as_str()).links().len()).sum(),
        ],
    );
    println!("  lol_html, passed through with a handler     {pass:8.1} MB/s");
    println!("  html5ever, tree built                       {dom:8.1} MB/s");
    println!("  document with text, blocks and links        {ours:8.1} MB/s");
    println!("    of lol_html {:.2} (wanted 0.5), of html5ever {:.2} (wanted 2)", ours / pass, ours / dom);
    let edits: Vec<_> = pages.iter().zip(0..).filter_map(|(page, seed)| Some((page, edit_of(page, seed)?))).collect();
    let edited: usize = edits.iter().map(|(page, _)| page.len()).sum();
    let links: usize = edits.iter().map(|(_, edit)| edit.splices().len() / 2).sum();
    let apply = || edits.iter().filter_map(|(page, edit)| edit.apply(page).ok()).map(|s| s.len()).sum();
    let [applied] = throughputs(edited, [&apply]);
    println!("  edits of {LINKS} links a page made ({links} in all) {applied:8.1} MB/s (wanted 300)");
}

fn pass_through(page: &str) -> usize {
    let (mut links, mut out) = (0, 0);
    let handler = element!("a[href]", |_element| {
        links += 1;
        Ok(())
    });
    let settings = Settings::new().append_element_content_handler(handler);
    let mut rewriter = HtmlRewriter::new(settings, |chunk: &[u8]| out += chunk.len());
    // A page that it gives up on counts for what was passed.
    let _ = rewriter.write(page.as_bytes());
    let _ = rewriter.end();
    links + out
}

fn tree_of(page: &str) -> usize {
    let dom = parse_document(RcDom::default(), ParseOpts::default()).one(page);
    dom.errors.into_inner().len()
}

fn edit_of(page: &str, seed: u64) -> Option<Edit> {
    let document = Document::from_html(page);
    let mut random = fastrand::Rng::with_seed(seed);
    let mut edits = Vec::new();
    let mut places = Vec::new();
    for words in sample::spans(&document, 4 * LINKS, &mut random) {
        let Ok(place) = document.may_link(words) else { continue };
        if edits.len() < LINKS && places.iter().all(|other| !place.overlaps(*other)) {
            places.push(place);
            edits.extend(document.put_link(words, &LinkTarget::to("/target/")).ok());
        }
    }
    Edit::compose(document.hash(), edits).ok()
}

fn flatness(hostile: &Hostile, read: impl Fn(String) -> usize) {
    let (small, large) = (hostile.page(64_000), hostile.page(1_000_000));
    let [fast] = throughputs(small.len(), [&|| read(small.clone())]);
    let [slow] = throughputs(large.len(), [&|| read(large.clone())]);
    let (small, large) = (1e3 / fast, 1e3 / slow);
    println!("  {:40} {small:10.1} {large:9.1} {:9.2}", hostile.name, large / small);
}
