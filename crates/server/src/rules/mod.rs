//! `strelm rules`: auto-linking rules from a table, on a folder of HTML, without a database.

mod in_folder;
pub mod table;

use std::collections::BTreeMap;
use std::io::Write;
use std::path::PathBuf;

use anyhow::Context;
use clap::Subcommand;
use serde::Serialize;
use strelm_core::in_order::in_order;
use strelm_core::rules::{Applied, Mention, Reader, Readers, RuleSet};
use strelm_formats::diff;
use strelm_formats::list::List;

use self::in_folder::RuledFolder;
use self::table::RuleTable;
use crate::in_folder::AT_ONCE;
use crate::words::{in_a_line, many};

/// `strelm rules`.
#[derive(Debug, Subcommand)]
pub enum Rules {
    /// Print what the rules would link, and what is held back and why
    Check {
        #[command(flatten)]
        on: OnFolder,
        /// Print one JSON object a line, with places in the files as bytes
        #[arg(long)]
        jsonl: bool,
    },
    /// Print what the rules would change in the files, as a diff
    Apply {
        #[command(flatten)]
        on: OnFolder,
        /// Put the links into the files
        #[arg(long)]
        write: bool,
    },
}

/// Rules and where they are applied.
#[derive(Debug, clap::Args)]
pub struct OnFolder {
    /// The table of rules: CSV, TSV or XLSX with at least the columns “phrase” and “target”
    rules: PathBuf,
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
}

/// A place of a rule.
#[derive(Serialize)]
struct Row<'a> {
    source: &'a str,
    target: &'a str,
    phrase: &'a str,
    /// In bytes of the file.
    start: usize,
    end: usize,
    linked: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    why: Option<String>,
}

/// What became of the places, over all pages.
#[derive(Default)]
struct Tally {
    linked: usize,
    there: usize,
    held: BTreeMap<String, usize>,
}

impl Rules {
    /// # Errors
    /// When the table or a part of the folder cannot be read, or a file cannot be written.
    pub fn run(&self) -> anyhow::Result<()> {
        let (Self::Check { on, .. } | Self::Apply { on, .. }) = self;
        let mut folder = RuledFolder::read(&on.folder, &on.entry)?;
        let bytes = std::fs::read(&on.rules).with_context(|| on.rules.display().to_string())?;
        let list = List::read(&bytes)?;
        let headings = list.headings.as_deref().unwrap_or_default();
        let table = RuleTable::read(&list, headings, |name| folder.target(name))?;
        tell_faults(&table)?;
        folder.rules = RuleSet::of(table.rules);
        match self {
            Self::Check { jsonl, .. } => check(&folder, *jsonl),
            Self::Apply { write, .. } => apply(&folder, *write),
        }
    }
}

fn tell_faults(table: &RuleTable) -> std::io::Result<()> {
    let mut err = std::io::stderr().lock();
    for column in &table.unknown_columns {
        writeln!(err, "the column “{}” says nothing to rules and is left out", in_a_line(column))?;
    }
    for (row, why) in &table.faults {
        writeln!(err, "row {row} is left out: {}", in_a_line(&why.to_string()))?;
    }
    Ok(())
}

fn check(folder: &RuledFolder, is_for_programs: bool) -> anyhow::Result<()> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    let mut tally = Tally::default();
    let readers = Readers::new(&folder.rules);
    let look = |page| Ok::<_, anyhow::Error>((page, readers.with(|reader| folder.applied(reader, page))?));
    in_order(folder.pages(), AT_ONCE, look, |looked| {
        let (page, applied) = looked?;
        let Some((_, applied)) = applied else { return Ok(()) };
        tally.add(&applied);
        for (mention, why) in in_text_order(&applied) {
            let rule = &folder.rules.rules()[mention.rule];
            let Some((start, end)) = folder.bytes_of(page, mention.words) else { continue };
            let (source, target) = (folder.path(page), folder.named(&rule.target));
            let phrase = rule.phrases[mention.phrase].as_str();
            let row = Row { source: &source, target: &target, phrase, start, end, linked: why.is_none(), why };
            match (is_for_programs, &row.why) {
                (true, _) => writeln!(out, "{}", serde_json::to_string(&row)?)?,
                (false, None) => {
                    writeln!(out, "{}: “{}” → {}", in_a_line(&source), in_a_line(phrase), in_a_line(&target))?
                }
                (false, Some(why)) => {
                    writeln!(out, "{}: “{}” is not linked: {}", in_a_line(&source), in_a_line(phrase), in_a_line(why))?;
                }
            }
        }
        Ok::<(), anyhow::Error>(())
    })?;
    out.flush()?;
    Ok(tally.tell()?)
}

fn apply(folder: &RuledFolder, writes: bool) -> anyhow::Result<()> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    let mut tally = Tally::default();
    let mut reader = Reader::new(&folder.rules);
    for page in folder.pages() {
        let Some((seen, applied)) = folder.applied(&mut reader, page)? else { continue };
        tally.add(&applied);
        if applied.linked.is_empty() {
            continue;
        }
        let change = folder.change(page, &seen, &applied)?;
        if writes {
            change.write(folder)?;
        }
        write!(out, "{}", diff::unified(&change.path, &change.before.text, &change.after))?;
    }
    out.flush()?;
    Ok(tally.tell()?)
}

/// All places of a page, those that hold none of the rule's links with why.
fn in_text_order(applied: &Applied) -> Vec<(Mention, Option<String>)> {
    let linked = applied.linked.iter().map(|mention| (*mention, None));
    let there = applied.there.iter().map(|mention| (*mention, Some("the link is there".to_owned())));
    let held = applied.held.iter().map(|(mention, why)| (*mention, Some(why.to_string())));
    let mut all: Vec<_> = linked.chain(there).chain(held).collect();
    all.sort_by_key(|(mention, _)| (mention.words, mention.rule));
    all
}

impl Tally {
    fn add(&mut self, applied: &Applied) {
        self.linked += applied.linked.len();
        self.there += applied.there.len();
        applied.held.iter().for_each(|(_, why)| *self.held.entry(why.to_string()).or_default() += 1);
    }

    fn tell(&self) -> std::io::Result<()> {
        let mut err = std::io::stderr().lock();
        let there = if self.there > 0 { format!(", {} there already", self.there) } else { String::new() };
        writeln!(err, "{}{there}, {} held back", many(self.linked, "link"), self.held.values().sum::<usize>())?;
        let mut reasons: Vec<_> = self.held.iter().collect();
        reasons.sort_by_key(|(why, count)| (std::cmp::Reverse(**count), *why));
        reasons.into_iter().try_for_each(|(why, count)| writeln!(err, "{count:>7}  {}", in_a_line(why)))
    }
}
