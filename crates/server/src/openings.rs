//! `strelm openings`: a folder of HTML read without a database, and the openings of all its pages, one a line.

use std::collections::{BTreeMap, HashMap};
use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::Context;
use percent_encoding::percent_decode_str;
use rayon::iter::{IndexedParallelIterator, IntoParallelRefIterator, ParallelIterator};
use serde::Serialize;
use strelm_core::document::encoding::{BytePlaces, PageEncoding};
use strelm_core::document::{Document, SourcePlaces, TextSpan};
use strelm_core::openings::{AllWanted, Corpus, CorpusPage, Ensemble, Fit, Judge, Limits, Manners, Taste};
use strelm_core::phrases::Prose;
use strelm_core::site::{Address, PageFacts, PageId};
use strelm_sources::folder::{self, FolderFile};

const BASE: &str = "http://folder.invalid/";

/// Pages that are looked at between two times that lines are printed.
const AT_ONCE: usize = 32;

#[derive(Debug, clap::Args)]
pub struct Openings {
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Print one JSON object a line, with places in the files as bytes
    #[arg(long)]
    jsonl: bool,
    /// Openings of each page, at most
    #[arg(long, default_value_t = 10)]
    limit: usize,
    /// Openings of a smaller fit are left out
    #[arg(long)]
    least_fit: Option<f64>,
    /// Judge by these weights instead of those that come with Strelm
    #[arg(long)]
    weights: Option<PathBuf>,
}

impl Openings {
    /// # Errors
    /// When a part of the folder cannot be read, or the weights cannot be understood.
    pub fn run(&self) -> anyhow::Result<()> {
        let ensemble = match &self.weights {
            Some(file) => Ensemble::parse(&std::fs::read_to_string(file)?)?,
            None => Ensemble::shipped()?,
        };
        let base = Address::parse(BASE)?;
        let entry = address_of(&base, &self.entry).context("the entry page has no usable name")?;
        let paths = folder::paths(&self.folder).collect::<Result<Vec<_>, _>>()?;
        let read = |path: &PathBuf| read(&self.folder, path, &base);
        let (corpus, places) = Corpus::read(entry, &paths, read, InFile::of)?;
        let pages: Vec<&PageFacts> = corpus.site.pages().collect();
        let sources: HashMap<PageId, String> = pages.iter().map(|page| (page.id, path_of(&page.address))).collect();
        let judge = Judge { site: &corpus.site, book: &corpus.book, ensemble: &ensemble, taste: Taste::AUTHOR };
        // A program that asks wants what is weak, too, and every target for the same words.
        let default = if self.jsonl { 0.0 } else { Limits::default().least_fit };
        let limits = Limits { most: self.limit, least_fit: self.least_fit.unwrap_or(default), ..Limits::default() };
        let manners = Manners { words_twice: self.jsonl, ..Manners::default() };
        let sitting = judge.sit();
        let lines = |(page, places): (&&PageFacts, &InFile)| -> String {
            let page = page.id;
            let text = corpus.book.prose(page).map_or("", Prose::text);
            let chosen = sitting.chosen(page, &AllWanted, manners, limits);
            let lines = chosen.iter().filter_map(|(candidate, weighed)| {
                let fit = Fit::of(&ensemble, weighed, judge.taste);
                let words = judge.words_of(page, candidate);
                let between = (sources.get(&page)?, sources.get(&candidate.target)?);
                if self.jsonl {
                    return row(between, (words, text.get(words.range())?), &fit, places);
                }
                let sentence = text.get(judge.sentence_of(page, words).range())?.replace('\n', " ");
                let (anchor, (source, target)) = (text.get(words.range())?, between);
                Some(format!("{:3.0}  {source} -> {target}  [{anchor}]  {sentence}\n", fit.total()))
            });
            lines.collect()
        };
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        // Pages are numbered in the order of their places.
        for (pages, places) in pages.chunks(AT_ONCE).zip(places.chunks(AT_ONCE)) {
            let lines: Vec<String> = pages.par_iter().zip(places).map(lines).collect();
            for line in lines {
                out.write_all(line.as_bytes())?;
            }
        }
        Ok(out.flush()?)
    }
}

/// An opening as the evaluation reads it. Places are bytes of the source's file.
#[derive(Serialize)]
struct Row<'o> {
    source: &'o str,
    target: &'o str,
    anchor: &'o str,
    start: usize,
    end: usize,
    score: f64,
    fit: f64,
    /// What each part adds to the fit.
    parts: BTreeMap<&'static str, f32>,
}

/// Where a page's text stands in its file.
struct InFile {
    text: SourcePlaces,
    bytes: BytePlaces,
}

/// What is known of the bytes of a page's file.
enum FileBytes {
    /// Those of its text in this encoding.
    Sound(PageEncoding),
    /// Some of them have no text.
    Torn(BytePlaces),
}

impl InFile {
    fn of(document: Document, bytes: FileBytes) -> Self {
        let bytes = match bytes {
            FileBytes::Sound(encoding) => BytePlaces::of(encoding, document.source()),
            FileBytes::Torn(places) => places,
        };
        Self { bytes, text: document.into_places() }
    }
}

/// What an opening is as one line of JSON.
fn row(
    (source, target): (&String, &String),
    (words, anchor): (TextSpan, &str),
    fit: &Fit,
    places: &InFile,
) -> Option<String> {
    let row = Row {
        source,
        target,
        anchor,
        start: places.bytes.byte(places.text.source_start(words.start)?),
        end: places.bytes.byte(places.text.source_end(words.end)?),
        score: fit.total() / 100.0,
        fit: fit.total(),
        parts: fit.parts.iter().map(|part| (part.part.as_str(), part.adds)).collect(),
    };
    Some(serde_json::to_string(&row).ok()? + "\n")
}

/// A file of the folder, when it is a page, and what its bytes are.
fn read(folder: &Path, file: &Path, base: &Address) -> anyhow::Result<Option<(CorpusPage, FileBytes)>> {
    let FolderFile::Page { path, format, text, encoding, is_faithful } = folder::file(folder, file)? else {
        return Ok(None);
    };
    let Some(address) = address_of(base, &path) else { return Ok(None) };
    let bytes = match is_faithful {
        true => FileBytes::Sound(encoding),
        false => FileBytes::Torn(BytePlaces::of_torn(encoding, &std::fs::read(file)?)),
    };
    Ok(Some((CorpusPage { address, document: Document::read(text, format) }, bytes)))
}

/// The path of a page relative to the folder.
fn path_of(address: &Address) -> String {
    let path = address.as_url().path().trim_start_matches('/');
    percent_decode_str(path).decode_utf8_lossy().into_owned()
}

fn address_of(base: &Address, path: &str) -> Option<Address> {
    let mut url = base.as_url().clone();
    url.path_segments_mut().ok()?.clear().extend(path.split('/'));
    Address::parse(url.as_str()).ok()
}
