//! `strelm openings`: a folder of HTML read without a database, and the openings of all its pages, one a line.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::Context;
use percent_encoding::percent_decode_str;
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use serde::Serialize;
use strelm_core::document::encoding::{BytePlaces, PageEncoding};
use strelm_core::document::{Document, SourcePlaces, TextSpan};
use strelm_core::openings::{
    AllWanted, BothWays, Candidate, Corpus, CorpusPage, Ensemble, Fit, Judge, Limits, Manners, Taste, Weighed,
};
use strelm_core::site::{Address, PageId};
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
    /// Openings of each page, at most; with --jsonl also as many to each page beside these
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
        let judge = Judge { site: &corpus.site, book: &corpus.book, ensemble: &ensemble, taste: Taste::AUTHOR };
        let pages: Vec<PageId> = corpus.site.pages().map(|page| page.id).collect();
        // A program that asks wants what is weak, too, and every target for the same words.
        let default = if self.jsonl { 0.0 } else { Limits::default().least_fit };
        let limits = Limits { most: self.limit, least_fit: self.least_fit.unwrap_or(default), ..Limits::default() };
        let manners = Manners { words_twice: self.jsonl, ..Manners::default() };
        let sitting = judge.sit();
        let print = Print { judge, is_for_programs: self.jsonl, places: &places };
        let look = |page: &PageId| {
            let BothWays { chosen, beside } = sitting.both_ways(*page, &AllWanted, manners, limits);
            let lines: String = chosen.iter().filter_map(|(found, worth)| print.line(*page, found, worth)).collect();
            (*page, lines, beside)
        };
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        let mut further = Further { most: self.limit, to: BTreeMap::new() };
        for pages in pages.chunks(AT_ONCE) {
            let looked: Vec<_> = pages.par_iter().map(look).collect();
            for (page, lines, beside) in looked {
                out.write_all(lines.as_bytes())?;
                // Who reads by eye reads page by page.
                if self.jsonl {
                    further.add(page, &beside);
                }
            }
        }
        for lead in further.to.values().flatten() {
            let line = print.line(lead.source, &lead.candidate, &judge.weigh(&lead.candidate));
            out.write_all(line.unwrap_or_default().as_bytes())?;
        }
        Ok(out.flush()?)
    }
}

/// The best that lead to each page beside what was chosen for the pages on which they stand.
struct Further {
    /// For each page.
    most: usize,
    /// The best first.
    to: BTreeMap<PageId, Vec<Lead>>,
}

struct Lead {
    log_odds: f32,
    source: PageId,
    candidate: Candidate,
}

impl Further {
    /// Takes note of what stands on a page; pages come in order. O(found × log most).
    fn add(&mut self, source: PageId, found: &[(Candidate, Weighed)]) {
        for (candidate, Weighed { log_odds, .. }) in found {
            let leads = self.to.entry(candidate.target).or_default();
            let at = leads.partition_point(|lead| lead.log_odds >= *log_odds);
            if at < self.most {
                leads.truncate(self.most - 1);
                leads.insert(at, Lead { log_odds: *log_odds, source, candidate: *candidate });
            }
        }
    }
}

/// How openings are printed.
struct Print<'p> {
    judge: Judge<'p>,
    is_for_programs: bool,
    /// By the numbers of the pages, which are numbered in this order from 1.
    places: &'p [InFile],
}

impl Print<'_> {
    /// An opening as a line; `None` where the page is not known.
    fn line(&self, page: PageId, candidate: &Candidate, weighed: &Weighed) -> Option<String> {
        let Judge { site, book, ensemble, taste } = self.judge;
        let text = book.prose(page)?.text();
        let fit = Fit::of(ensemble, weighed, taste);
        let words = self.judge.words_of(page, candidate);
        let (source, target) = (path_of(&site.page(page)?.address), path_of(&site.page(candidate.target)?.address));
        let anchor = text.get(words.range())?;
        if self.is_for_programs {
            let places = self.places.get((page.0 as usize).checked_sub(1)?)?;
            return row((&source, &target), (words, anchor), &fit, places);
        }
        let sentence = text.get(self.judge.sentence_of(page, words).range())?.replace('\n', " ");
        Some(format!("{:3.0}  {source} -> {target}  [{anchor}]  {sentence}\n", fit.total()))
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
    (source, target): (&str, &str),
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
