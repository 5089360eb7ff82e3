//! `strelm openings`: a folder of HTML read without a database, and the openings of all its pages, one a line.

use std::collections::HashMap;
use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::Context;
use rayon::iter::{IntoParallelIterator, IntoParallelRefIterator, ParallelIterator};
use serde_json::json;
use strelm_core::document::Document;
use strelm_core::openings::{AllWanted, Corpus, CorpusPage, Ensemble, Judge, Limits, Manners, Opening, Part, Taste};
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
        let documents: Vec<(Address, Document)> = pages;
        let sources: HashMap<PageId, String> = (1..).map(PageId).zip(paths).collect();
        let pages = documents.iter().map(|(address, document)| CorpusPage {
            address: address.clone(),
            document: Document::from_html(document.source()),
        });
        let corpus = Corpus::of(entry, pages.collect());
        let judge = Judge { site: &corpus.site, book: &corpus.book, ensemble: &ensemble, taste: Taste::AUTHOR };
        // A program that asks wants what is weak, too, and every target for the same words.
        let default = if self.jsonl { 0.0 } else { Limits::default().least_fit };
        let limits = Limits { most: self.limit, least_fit: self.least_fit.unwrap_or(default), ..Limits::default() };
        let manners = Manners { words_twice: self.jsonl, ..Manners::default() };
        let numbers: Vec<PageId> = (1..).map(PageId).take(documents.len()).collect();
        let lines: Vec<String> = numbers
            .par_iter()
            .map(|page| {
                let found = judge.outbound(None, *page, &AllWanted, manners, limits);
                let document = &documents[page.0 as usize - 1].1;
                found.iter().filter_map(|opening| self.line(opening, document, &sources)).collect()
            })
            .collect();
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        for line in lines {
            out.write_all(line.as_bytes())?;
        }
        Ok(out.flush()?)
    }

    fn line(&self, opening: &Opening, document: &Document, paths: &HashMap<PageId, String>) -> Option<String> {
        let (source, target) = (paths.get(&opening.source)?, paths.get(&opening.target)?);
        let anchor = document.text().slice(opening.words);
        let fit = opening.fit.total();
        if !self.jsonl {
            let sentence = document.text().slice(opening.sentence).replace('\n', " ");
            return Some(format!("{fit:3.0}  {source} -> {target}  [{anchor}]  {sentence}\n"));
        }
        let start = document.text().source_start(opening.words.start)?;
        let end = document.text().source_end(opening.words.end)?;
        let parts: serde_json::Map<_, _> =
            opening.fit.parts.iter().map(|part| (part.part.as_str().to_owned(), json!(part.adds))).collect();
        debug_assert_eq!(parts.len(), Part::ALL.len());
        let row = json!({
            "source": source, "target": target, "anchor": anchor, "start": start, "end": end,
            "score": fit / 100.0, "fit": fit, "parts": parts,
        });
        Some(format!("{row}\n"))
    }
}

/// The paths of all pages and their documents, in the same order.
#[expect(clippy::type_complexity, reason = "two lists that belong together")]
fn read(folder: &Path) -> anyhow::Result<(Vec<String>, Vec<(Address, Document)>)> {
    let base = Address::parse(BASE)?;
    let files: Vec<_> = folder::paths(folder).collect();
    let pages: Result<Vec<_>, folder::FolderError> = files
        .into_par_iter()
        .map(|path| folder::file(folder, &path?))
        .filter_map(|file| match file {
            Ok(FolderFile::Page { path, format, text, .. }) => {
                address_of(&base, &path).map(|address| Ok((path, (address, Document::read(text, format)))))
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
