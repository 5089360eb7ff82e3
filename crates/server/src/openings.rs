//! `strelm openings`: a folder of HTML read without a database, and the openings of all its pages, one a line.

use std::collections::{BTreeMap, HashMap};
use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::Context;
use rayon::iter::{IntoParallelIterator, IntoParallelRefIterator, ParallelIterator};
use serde::Serialize;
use strelm_core::document::{Document, TextLayer, TextSpan};
use strelm_core::openings::{AllWanted, Corpus, CorpusPage, Ensemble, Fit, Judge, Limits, Manners, Taste};
use strelm_core::site::{Address, PageId};
use strelm_sources::folder::{self, FolderFile};

const BASE: &str = "http://folder.invalid/";

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
        let (paths, pages) = read(&self.folder)?;
        let base = Address::parse(BASE)?;
        let entry = address_of(&base, &self.entry).context("the entry page has no usable name")?;
        let sources: HashMap<PageId, String> = (1..).map(PageId).zip(paths).collect();
        let numbers: Vec<PageId> = (1..).map(PageId).take(pages.len()).collect();
        let (corpus, texts) = Corpus::keeping(entry, pages, Document::into_text);
        let judge = Judge { site: &corpus.site, book: &corpus.book, ensemble: &ensemble, taste: Taste::AUTHOR };
        // A program that asks wants what is weak, too, and every target for the same words.
        let default = if self.jsonl { 0.0 } else { Limits::default().least_fit };
        let limits = Limits { most: self.limit, least_fit: self.least_fit.unwrap_or(default), ..Limits::default() };
        let manners = Manners { words_twice: self.jsonl, ..Manners::default() };
        let sitting = judge.sit();
        let lines: Vec<String> = numbers
            .par_iter()
            .map(|page| {
                let text = &texts[page.0 as usize - 1];
                let chosen = sitting.chosen(*page, &AllWanted, manners, limits);
                let lines = chosen.iter().filter_map(|(candidate, weighed)| {
                    let fit = Fit::of(&ensemble, weighed, judge.taste);
                    let words = judge.words_of(*page, candidate);
                    let between = (sources.get(page)?, sources.get(&candidate.target)?);
                    if self.jsonl {
                        return row(between, words, &fit, text);
                    }
                    let sentence = text.slice(judge.sentence_of(*page, words)).replace('\n', " ");
                    let (anchor, (source, target)) = (text.slice(words), between);
                    Some(format!("{:3.0}  {source} -> {target}  [{anchor}]  {sentence}\n", fit.total()))
                });
                lines.collect()
            })
            .collect();
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        for line in lines {
            out.write_all(line.as_bytes())?;
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

/// What an opening is as one line of JSON.
fn row((source, target): (&String, &String), words: TextSpan, fit: &Fit, text: &TextLayer) -> Option<String> {
    let row = Row {
        source,
        target,
        anchor: text.slice(words),
        start: text.source_start(words.start)?,
        end: text.source_end(words.end)?,
        score: fit.total() / 100.0,
        fit: fit.total(),
        parts: fit.parts.iter().map(|part| (part.part.as_str(), part.adds)).collect(),
    };
    Some(serde_json::to_string(&row).ok()? + "\n")
}

/// The paths of all pages and their documents, in the same order.
fn read(folder: &Path) -> anyhow::Result<(Vec<String>, Vec<CorpusPage>)> {
    let base = Address::parse(BASE)?;
    let files: Vec<_> = folder::paths(folder).collect();
    let pages: Result<Vec<_>, folder::FolderError> = files
        .into_par_iter()
        .map(|path| folder::file(folder, &path?))
        .filter_map(|file| match file {
            Ok(FolderFile::Page { path, format, text, .. }) => {
                let document = Document::read(text, format);
                address_of(&base, &path).map(|address| Ok((path, CorpusPage { address, document })))
            }
            Ok(FolderFile::Other { .. }) => None,
            Err(error) => Some(Err(error)),
        })
        .collect();
    Ok(pages?.into_iter().unzip())
}

fn address_of(base: &Address, path: &str) -> Option<Address> {
    let mut url = base.as_url().clone();
    url.path_segments_mut().ok()?.clear().extend(path.split('/'));
    Address::parse(url.as_str()).ok()
}
