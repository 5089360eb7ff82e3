//! `strelm openings`: a folder of HTML read without a database, and the openings of all its pages, one a line.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::PathBuf;

use serde::Serialize;
use strelm_core::in_order::in_order;
use strelm_core::openings::{AllWanted, BothWays, Candidate, Ensemble, Fit, Judge, Limits, Manners, Taste, Weighed};
use strelm_core::site::PageId;

use crate::in_folder::{AT_ONCE, FolderSite, InFile, path_of};
use crate::words::in_a_line;

/// `strelm openings`: finds openings in a folder without a database.
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
    /// Judge as on any site, without what the site's own links teach
    #[arg(long)]
    untaught: bool,
}

impl Openings {
    /// # Errors
    /// When a part of the folder cannot be read, or the weights cannot be understood.
    pub fn run(&self) -> anyhow::Result<()> {
        let ensemble = match &self.weights {
            Some(file) => Ensemble::parse(&std::fs::read_to_string(file)?)?,
            None => Ensemble::shipped()?,
        };
        let mut read = FolderSite::read(&self.folder, &self.entry)?;
        let ensemble = if self.untaught { ensemble } else { read.taught(&self.folder, ensemble)? };
        let FolderSite { corpus, places } = read;
        let judge = Judge { site: &corpus.site, book: &corpus.book, ensemble: &ensemble, taste: Taste::AUTHOR };
        let pages: Vec<PageId> = corpus.site.pages().map(|page| page.id).collect();
        // A program that asks wants what is weak, too, and every target for the same words.
        let default = if self.jsonl { 0.0 } else { Limits::default().least_fit };
        let limits = Limits { most: self.limit, least_fit: self.least_fit.unwrap_or(default), ..Limits::default() };
        let manners = Manners { words_twice: self.jsonl, ..Manners::default() };
        let sitting = judge.sit();
        let print = Print { judge, is_for_programs: self.jsonl, places: &places };
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        let mut further = Further { most: self.limit, to: BTreeMap::new() };
        let look = |page| {
            let BothWays { chosen, beside } = sitting.both_ways(page, &AllWanted, manners, limits);
            (page, print.lines(page, &chosen), beside)
        };
        in_order(pages, AT_ONCE, look, |(page, lines, beside)| {
            // Who reads by eye reads page by page.
            if self.jsonl {
                further.add(page, &beside);
            }
            out.write_all(lines.as_bytes())
        })?;
        let lines = |(page, found): (PageId, Vec<Candidate>)| {
            let found: Vec<_> = found.iter().map(|found| (*found, judge.weigh(page, found))).collect();
            print.lines(page, &found)
        };
        in_order(further.by_source(), AT_ONCE, lines, |lines| out.write_all(lines.as_bytes()))?;
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

    fn by_source(self) -> BTreeMap<PageId, Vec<Candidate>> {
        let mut by_source: BTreeMap<PageId, Vec<_>> = BTreeMap::new();
        for Lead { source, candidate, .. } in self.to.into_values().flatten() {
            by_source.entry(source).or_default().push(candidate);
        }
        by_source
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
    /// Openings of a page as lines; without what has no place in its file.
    fn lines(&self, page: PageId, found: &[(Candidate, Weighed)]) -> String {
        let Judge { site, book, ensemble, taste } = self.judge;
        let in_file = (page.0 as usize).checked_sub(1).and_then(|at| self.places.get(at));
        let of_page = site.page(page).zip(book.prose(page)).zip(in_file);
        let Some(((facts, prose), in_file)) = of_page else { return String::new() };
        let (source, text) = (path_of(&facts.address), prose.text());
        let places = in_file.text.unpack();
        let line = |(candidate, weighed): &(Candidate, Weighed)| {
            let fit = Fit::of(ensemble, weighed, taste);
            let words = self.judge.words_of(page, candidate);
            let target = path_of(&site.page(candidate.target)?.address);
            let anchor = text.get(words.range())?;
            if self.is_for_programs {
                let start = in_file.bytes.byte(places.source_start(words.start)?);
                let end = in_file.bytes.byte(places.source_end(words.end)?);
                return row((&source, &target), (anchor, start, end), &fit);
            }
            let sentence = text.get(self.judge.sentence_of(page, words).range())?;
            let [source, target, anchor, sentence] = [&source, &target, anchor, sentence].map(in_a_line);
            Some(format!("{:3.0}  {source} -> {target}  [{anchor}]  {sentence}\n", fit.total()))
        };
        found.iter().filter_map(line).collect()
    }
}

/// An opening as the evaluation reads it. Places are bytes of the source's file.
#[derive(Serialize)]
struct FoundRow<'o> {
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

/// What an opening is as one line of JSON. `start` and `end` are bytes of the file.
pub fn row((source, target): (&str, &str), (anchor, start, end): (&str, usize, usize), fit: &Fit) -> Option<String> {
    let row = FoundRow {
        source,
        target,
        anchor,
        start,
        end,
        score: fit.total() / 100.0,
        fit: fit.total(),
        parts: fit.parts.iter().map(|part| (part.part.as_str(), part.adds)).collect(),
    };
    Some(serde_json::to_string(&row).ok()? + "\n")
}
