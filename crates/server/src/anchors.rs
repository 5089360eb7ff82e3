//! `strelm anchors`: what the links of a folder of HTML say, without a database.

use std::io::Write;
use std::path::PathBuf;

use serde::Serialize;
use strelm_core::anchors::{AnchorRow, LookedLink, SaidLink, SiteAnchors};
use strelm_core::document::{Document, Link, Region};
use strelm_core::language::Language;
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

impl Anchors {
    /// # Errors
    /// When a part of the folder cannot be read, or the entry page is not there.
    pub fn run(&self) -> anyhow::Result<()> {
        let read = FolderSite::read_from(&self.folder, &self.entry)?;
        let mut anchors = SiteAnchors::default();
        let look = |page: &PageFacts, document: &Document| (page.id, said_on(document, &page.address, page.language));
        read.each_page(&self.folder, look, |(page, said)| {
            anchors.put(page, &said);
            Ok(())
        })?;
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        for row in anchors.rows() {
            print(&mut out, &row, self.jsonl)?;
        }
        Ok(out.flush()?)
    }
}

fn said_on(document: &Document, page: &Address, language: Language) -> Vec<LookedLink> {
    let said = |(ordinal, link): (usize, &Link)| {
        let to = match page.follow(&link.href) {
            Destination::Page { address, fragment: Some(place) } => format!("{address}#{place}"),
            Destination::Page { address, fragment: None } => address.to_string(),
            Destination::Other(_) | Destination::Unusable => link.href.clone(),
        };
        LookedLink::of(SaidLink {
            language,
            text: &document.heard(link),
            kind: link.kind,
            to: &to,
            ordinal: Some(ordinal),
            is_repeated: link.region != Region::Content,
            is_filing: link.has_rel("tag"),
            marks: document.link_attributes(link).marks(),
        })
    };
    document.links().iter().enumerate().map(said).collect()
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
