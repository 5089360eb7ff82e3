//! `strelm survey`: a folder of HTML read without a database, and what is to be said of its links.

use std::collections::{BTreeMap, HashSet};
use std::io::Write;
use std::path::PathBuf;
use std::sync::mpsc;

use anyhow::Context;
use rayon::iter::{IntoParallelIterator, ParallelIterator};
use serde_json::json;
use strelm_core::audit::broken;
use strelm_core::document::{Document, Format, Link, LinkMarks, Region};
use strelm_core::language::{Language, words};
use strelm_core::site::{
    Absence, Address, BlockKey, Destination, Fragments, OutLink, PageFacts, PageId, PageKind, Repetition, Site,
    Standing,
};
use strelm_core::tray::Tray;
use strelm_sources::folder::{self, FolderFile};

use crate::in_folder;
use crate::words::in_a_line;

/// `strelm survey`: tells what is in a folder without a database.
#[derive(Debug, clap::Args)]
pub struct Survey {
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Print one JSON object instead of text
    #[arg(long)]
    json: bool,
}

struct Surveyed {
    address: Address,
    title: String,
    /// Content words of each block, by which it is told from boilerplate.
    blocks: Vec<(BlockKey, usize)>,
    links: Vec<SurveyedLink>,
    ids: Vec<String>,
}

struct SurveyedLink {
    href: String,
    to: Destination,
    region: Region,
    /// The block in which it stands.
    block: Option<BlockKey>,
    marks: LinkMarks,
}

/// A broken link is told by the name of its page and what is written.
type Written = (String, String);

impl Surveyed {
    fn words(&self, boilerplate: &HashSet<BlockKey>) -> usize {
        self.blocks.iter().filter(|(key, _)| !boilerplate.contains(key)).map(|(_, words)| words).sum()
    }

    fn regions(&self, boilerplate: &HashSet<BlockKey>) -> impl Iterator<Item = Region> {
        self.links.iter().map(|link| match link.block.filter(|block| boilerplate.contains(block)) {
            Some(_) if link.region == Region::Content => Region::Menu,
            _ => link.region,
        })
    }
}

struct Findings {
    site: Site,
    words: usize,
    links_by_region: BTreeMap<&'static str, usize>,
    links_away: u32,
    links_within: usize,
    orphans: Vec<String>,
    unreachable: Vec<String>,
    depths: BTreeMap<u32, usize>,
    broken_links: Vec<(String, String)>,
    broken_fragments: Vec<(String, String)>,
}

impl Survey {
    /// # Errors
    /// When a part of the folder cannot be read or the entry page is not there.
    pub fn run(&self) -> anyhow::Result<()> {
        let base = in_folder::base()?;
        let (mut pages, others) = read(&self.folder, &base)?;
        pages.sort_by(|a, b| a.address.cmp(&b.address));
        let entry = base.of_file(&self.entry).context("the entry page has no usable name")?;
        if !pages.iter().any(|page| page.address == entry) {
            let shown: Vec<_> = pages.iter().take(5).map(|page| name(&page.address)).collect();
            anyhow::bail!(
                "{} is not in the folder; name the first page with --entry, such as: {}",
                self.entry,
                shown.join(", ")
            );
        }
        let findings = judge(entry, pages, &others);
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        if self.json {
            writeln!(out, "{:#}", findings.to_json())?;
        } else {
            findings.print(&mut out)?;
        }
        out.flush()?;
        Ok(())
    }
}

/// Reads and parses on all cores; parsed documents are not kept.
fn read(folder: &std::path::Path, base: &Address) -> anyhow::Result<(Vec<Surveyed>, HashSet<Address>)> {
    let (other_sender, others) = mpsc::channel();
    let paths: Vec<_> = folder::paths(folder).collect();
    let pages: Result<Vec<_>, _> = paths
        .into_par_iter()
        .map(|path| folder::file(folder, &path?))
        .filter_map(|file| match file {
            Ok(FolderFile::Page { path, format, text, .. }) => {
                base.of_file(&path).map(|a| Ok(survey_page(a, text, format)))
            }
            Ok(FolderFile::Other { path }) => {
                // The receiver outlives the loop.
                let _ = base.of_file(&path).map(|address| other_sender.send(address));
                None
            }
            Err(error) => Some(Err(error)),
        })
        .collect();
    drop(other_sender);
    Ok((pages?, others.into_iter().collect()))
}

/// What a link leads to; one to a folder leads to its index file.
fn follow(page: &Address, href: &str) -> Destination {
    match page.follow(href) {
        Destination::Page { address, fragment } if address.as_str().ends_with('/') => {
            let index = Address::parse(&format!("{address}index.html"));
            Destination::Page { address: index.unwrap_or(address), fragment }
        }
        other => other,
    }
}

fn survey_page(address: Address, text: String, format: Format) -> Surveyed {
    let document = Document::read(text, format);
    let base = document.head().base.as_ref().and_then(|base| match address.follow(base) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    });
    let base = base.as_ref().unwrap_or(&address);
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    let link = |link: &Link| {
        let block = link.block.and_then(|block| document.blocks().get(block.0 as usize));
        SurveyedLink {
            href: link.href.clone(),
            to: follow(base, &link.href),
            region: link.region,
            block: block.map(|block| BlockKey::of(&document, block)),
            marks: document.link_attributes(link).marks(),
        }
    };
    Surveyed {
        title: document.head().title.clone().unwrap_or_default(),
        blocks: content
            .map(|block| (BlockKey::of(&document, block), words(document.text().slice(block.text)).count()))
            .collect(),
        links: document.links().iter().map(link).collect(),
        ids: document.ids().map(str::to_owned).collect(),
        address,
    }
}

fn judge(entry: Address, pages: Vec<Surveyed>, others: &HashSet<Address>) -> Findings {
    let mut site = Site::new(entry);
    let mut links_by_region: BTreeMap<_, _> = Region::ALL.iter().map(|region| (region.as_str(), 0)).collect();
    let mut links_within = 0;
    let mut repetition = Repetition::default();
    for surveyed in &pages {
        repetition.add(&surveyed.address, &surveyed.blocks.iter().map(|(key, _)| *key).collect());
    }
    let boilerplate = repetition.boilerplate();
    let mut fragments = Fragments::default();
    for (number, surveyed) in (1..).zip(&pages) {
        let facts = PageFacts {
            id: PageId(number),
            address: surveyed.address.clone(),
            kind: PageKind::Page,
            title: surveyed.title.clone(),
            heading: None,
            category: None,
            words: u32::try_from(surveyed.words(&boilerplate)).unwrap_or(u32::MAX),
            language: Language::Other,
            editable: false,
            standing: Standing::default(),
        };
        let mut links = Vec::new();
        let mut places = Vec::new();
        for (link, region) in surveyed.links.iter().zip(surveyed.regions(&boilerplate)) {
            let Destination::Page { address, fragment } = &link.to else { continue };
            *links_by_region.entry(region.as_str()).or_default() += 1;
            links_within += usize::from(site.is_own(address));
            links.push(OutLink { to: address.clone(), region, marks: link.marks });
            places.extend(fragment.clone().map(|fragment| (address.clone(), fragment)));
        }
        fragments.put(facts.id, surveyed.ids.iter().map(String::as_str), places);
        site.put_page(facts, &links);
    }
    site.settle();
    let mut findings = Findings {
        words: pages.iter().map(|page| page.words(&boilerplate)).sum(),
        links_by_region,
        links_away: 0,
        links_within,
        orphans: Vec::new(),
        unreachable: Vec::new(),
        depths: BTreeMap::new(),
        broken_links: Vec::new(),
        broken_fragments: Vec::new(),
        site,
    };
    (findings.broken_links, findings.broken_fragments) = written(&findings.site, &pages, others, &fragments);
    findings.count();
    findings
}

/// Broken links, and links to places that are not there, as they are written, in the order of pages and links.
fn written(
    site: &Site,
    pages: &[Surveyed],
    others: &HashSet<Address>,
    fragments: &Fragments,
) -> (Vec<Written>, Vec<Written>) {
    let led_to = pages.iter().flat_map(|page| &page.links).filter_map(|link| match &link.to {
        Destination::Page { address, .. } if site.is_own(address) && !others.contains(address) => Some(address),
        _ => None,
    });
    // A folder has no server that could say why there is nothing.
    let dead = led_to.map(|address| (address.clone(), Absence::Status(404))).collect();
    let broken = broken(site, &dead, fragments, &Tray::default());
    let (mut links, mut places) = (Vec::new(), Vec::new());
    for (number, page) in (1..).zip(pages) {
        let Some(broken) = broken.get(&PageId(number)) else { continue };
        for link in &page.links {
            let Destination::Page { address, fragment } = &link.to else { continue };
            let is_it = |fragment: &Option<String>| {
                broken.iter().any(|broken| broken.to == *address && broken.fragment == *fragment)
            };
            let written = || (name(&page.address), link.href.clone());
            if is_it(&None) {
                links.push(written());
            } else if fragment.is_some() && is_it(fragment) {
                places.push(written());
            }
        }
    }
    (links, places)
}

impl Findings {
    fn count(&mut self) {
        let entry = self.site.page_at(self.site.entry());
        for page in self.site.pages() {
            let Some(figures) = self.site.figures(page.id) else { continue };
            self.links_away += figures.links_away;
            match figures.depth {
                Some(depth) => *self.depths.entry(depth).or_default() += 1,
                None => self.unreachable.push(name(&page.address)),
            }
            if figures.is_orphan() && Some(page.id) != entry {
                self.orphans.push(name(&page.address));
            }
        }
    }

    fn to_json(&self) -> serde_json::Value {
        let rows = |rows: &[(String, String)]| -> Vec<_> {
            rows.iter().map(|(page, href)| json!({"page": page, "href": href})).collect()
        };
        json!({
            "pages": self.site.pages().count(),
            "words": self.words,
            "links": self.links_by_region.values().sum::<usize>(),
            "links_by_region": self.links_by_region,
            "links_within": self.links_within,
            "links_away": self.links_away,
            "orphans": self.orphans,
            "unreachable": self.unreachable,
            "depths": self.depths,
            "broken_links": rows(&self.broken_links),
            "broken_fragments": rows(&self.broken_fragments),
        })
    }

    fn print(&self, out: &mut impl Write) -> std::io::Result<()> {
        let links: usize = self.links_by_region.values().sum();
        writeln!(out, "{:>9}  pages, {} words", self.site.pages().count(), self.words)?;
        writeln!(out, "{links:>9}  links, {} of them within, {} away", self.links_within, self.links_away)?;
        for (region, count) in self.links_by_region.iter().filter(|(_, count)| **count > 0) {
            writeln!(out, "{count:>9}    in {region}")?;
        }
        for (depth, count) in &self.depths {
            writeln!(out, "{count:>9}  pages at depth {depth}")?;
        }
        list(out, "pages that cannot be reached", &self.unreachable)?;
        list(out, "orphans: no page links there", &self.orphans)?;
        let pairs =
            |rows: &[(String, String)]| -> Vec<_> { rows.iter().map(|(p, h)| format!("{p} → {h}")).collect() };
        list(out, "broken links", &pairs(&self.broken_links))?;
        list(out, "broken fragments", &pairs(&self.broken_fragments))
    }
}

fn list(out: &mut impl Write, what: &str, rows: &[String]) -> std::io::Result<()> {
    writeln!(out, "{:>9}  {what}", rows.len())?;
    for row in rows.iter().take(10) {
        writeln!(out, "             {}", in_a_line(row))?;
    }
    if rows.len() > 10 {
        writeln!(out, "             … and {} more; --json lists all", rows.len() - 10)?;
    }
    Ok(())
}

fn name(address: &Address) -> String {
    address.from_root().trim_start_matches('/').to_owned()
}
