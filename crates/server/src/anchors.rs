//! `strelm anchors`: what the links of a folder of HTML say, without a database.

use std::io::Write;
use std::path::PathBuf;

use serde::Serialize;
use strelm_core::anchors::{AnchorRow, AnchorTexts, SaidLink};
use strelm_core::document::{Document, Link, LinkKind, Region};
use strelm_core::site::{Address, Destination, PageFacts};

use crate::in_folder::FolderSite;
use crate::words::in_a_line;

/// `strelm anchors`.
#[derive(Debug, clap::Args)]
pub struct Anchors {
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Print one JSON object a line
    #[arg(long)]
    jsonl: bool,
}

/// An anchor text, for programs.
#[derive(Serialize)]
struct Row<'r> {
    anchor: &'r str,
    links: usize,
    pages: usize,
    targets: usize,
    /// Links in menus, headers and footers, which the others are without.
    repeated: usize,
    faults: Vec<String>,
}

/// A link as it is told of.
struct Said {
    text: String,
    kind: LinkKind,
    to: String,
    is_repeated: bool,
}

impl Anchors {
    /// # Errors
    /// When a part of the folder cannot be read, or the entry page is not there.
    pub fn run(&self) -> anyhow::Result<()> {
        let read = FolderSite::read_from(&self.folder, &self.entry)?;
        let mut texts = AnchorTexts::default();
        let look = |page: &PageFacts, document: &Document| (page.id, page.language, said_on(document, &page.address));
        read.each_page(&self.folder, look, |(page, language, said)| {
            for Said { text, kind, to, is_repeated } in &said {
                texts.add(SaidLink { page, language, text, kind: *kind, to, is_repeated: *is_repeated });
            }
            Ok(())
        })?;
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        for row in texts.into_rows() {
            print(&mut out, &row, self.jsonl)?;
        }
        Ok(out.flush()?)
    }
}

fn said_on(document: &Document, page: &Address) -> Vec<Said> {
    let said = |link: &Link| Said {
        text: document.anchor(link),
        kind: link.kind,
        to: match page.follow(&link.href) {
            Destination::Page { address, fragment: Some(place) } => format!("{address}#{place}"),
            Destination::Page { address, fragment: None } => address.to_string(),
            Destination::Other(_) | Destination::Unusable => link.href.clone(),
        },
        is_repeated: link.region != Region::Content,
    };
    document.links().iter().map(said).collect()
}

fn print(out: &mut impl Write, row: &AnchorRow, is_for_programs: bool) -> anyhow::Result<()> {
    let AnchorRow { text, links, pages, targets, repeated, faults, .. } = row;
    let faults: Vec<_> = faults.iter().map(ToString::to_string).collect();
    if is_for_programs {
        let row = Row { anchor: text, links: *links, pages: *pages, targets: *targets, repeated: *repeated, faults };
        writeln!(out, "{}", serde_json::to_string(&row)?)?;
        return Ok(());
    }
    let said = if text.is_empty() { "(nothing)".to_owned() } else { in_a_line(text) };
    let of_menus = if *repeated > 0 { format!(", {repeated} in menus") } else { String::new() };
    writeln!(out, "{links:>7}  {said}{of_menus}")?;
    for fault in faults {
        writeln!(out, "{:>9}{fault}", "")?;
    }
    Ok(())
}
