//! `strelm reach`: a folder of HTML read without a database, and which of its pages a reader can get to.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::PathBuf;

use serde::Serialize;
use strelm_core::audit::Lacking;
use strelm_core::reach::{Dominators, Equity, EquityRules, Over, Snapshot, Ways, islands, threads};
use strelm_core::site::{Moment, RoadRules, RoadsCount, Site};
use strelm_formats::graph::{self, GraphEdge, GraphNode};

use crate::in_folder::{FolderSite, path_of};

/// Which links are roads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
pub enum RoadsFrom {
    /// Links in the content of pages alone
    Content,
    /// Links from menus, headers and footers too
    All,
}

impl RoadsFrom {
    /// As the site takes it.
    pub fn rules(self, heeds_nofollow: bool) -> RoadRules {
        let from = match self {
            Self::Content => RoadsCount::Content,
            Self::All => RoadsCount::All,
        };
        RoadRules { from, nofollow: !heeds_nofollow }
    }
}

/// `strelm reach`: tells which pages of a folder a reader can get to, without a database.
#[derive(Debug, clap::Args)]
pub struct Reach {
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Which links are roads
    #[arg(long, value_enum, default_value = "all")]
    roads: RoadsFrom,
    /// Leave out links that ask not to be followed
    #[arg(long)]
    heed_nofollow: bool,
    /// Print one JSON object instead of text
    #[arg(long, conflicts_with = "graphml")]
    json: bool,
    /// Print the pages and roads as GraphML, with depths
    #[arg(long)]
    graphml: bool,
}

/// What is printed as JSON. Pages are paths relative to the folder.
#[derive(Serialize)]
struct Told {
    pages: usize,
    /// How many pages there are in each depth.
    depths: BTreeMap<usize, u32>,
    unreachable: Vec<String>,
    orphans: Vec<String>,
    dead_ends: Vec<String>,
    islands: Vec<Vec<String>>,
    threads: Vec<ToldThread>,
    /// The share of each page in the equity of the site.
    equity: BTreeMap<String, f64>,
}

#[derive(Serialize)]
struct ToldThread {
    page: String,
    /// The page over which all ways lead, or whose link they all take.
    over: String,
    by: By,
    /// How many pages nobody could reach without it.
    hanging: u32,
}

#[derive(Clone, Copy, Serialize)]
#[serde(rename_all = "snake_case")]
enum By {
    Link,
    Page,
}

impl Reach {
    /// # Errors
    /// When a part of the folder cannot be read or the entry page is not there.
    pub fn run(&self) -> anyhow::Result<()> {
        let site = self.site()?;
        let snapshot = site.snapshot(Moment::Now);
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        if self.graphml {
            write_graph(&mut out, &site, &snapshot)?;
            return Ok(out.flush()?);
        }
        let told = Told::of(&site, &snapshot);
        match self.json {
            true => writeln!(out, "{}", serde_json::to_string_pretty(&told)?)?,
            false => told.print(&mut out)?,
        }
        Ok(out.flush()?)
    }

    fn site(&self) -> anyhow::Result<Site> {
        let mut read = FolderSite::read_from(&self.folder, &self.entry)?;
        read.corpus.site.set_reach(&[], self.roads.rules(self.heed_nofollow));
        read.corpus.site.settle();
        Ok(read.corpus.site)
    }
}

impl Told {
    fn of(site: &Site, snapshot: &Snapshot) -> Self {
        let name = |page: u32| {
            let facts = snapshot.page(page).and_then(|page| site.page(page));
            facts.map(|facts| path_of(&facts.address)).unwrap_or_default()
        };
        let names = |pages: Vec<u32>| -> Vec<String> { pages.into_iter().map(name).collect() };
        let lack = |lacking: Lacking| -> Vec<u32> {
            let is_true = |page: &u32| {
                let id = snapshot.page(*page)?;
                Some(lacking.is_true_of(site, site.page(id)?, &site.figures(id)?))
            };
            snapshot.numbers().filter(|page| is_true(page).unwrap_or_default()).collect()
        };
        let reversed = snapshot.roads().reversed();
        let ways = Ways::of(snapshot);
        let equity = Equity::of(snapshot, &reversed, EquityRules::default());
        let threads = threads(snapshot, &reversed, &Dominators::of(snapshot, &reversed));
        let (by_depth, _) = ways.counts();
        Self {
            pages: snapshot.len(),
            depths: by_depth.into_iter().enumerate().collect(),
            unreachable: names(lack(Lacking::AWayThere)),
            orphans: names(lack(Lacking::LinksIn)),
            dead_ends: names(lack(Lacking::LinksOut)),
            islands: islands(snapshot, &ways).into_iter().map(|island| names(island.pages)).collect(),
            threads: threads
                .into_iter()
                .map(|thread| {
                    let (over, by) = match thread.over {
                        Over::Link(from) => (from, By::Link),
                        Over::Page(page) => (page, By::Page),
                    };
                    ToldThread { page: name(thread.page), over: name(over), by, hanging: thread.hanging }
                })
                .collect(),
            equity: snapshot.numbers().map(|page| (name(page), equity.share(page))).collect(),
        }
    }

    fn print(&self, out: &mut impl Write) -> std::io::Result<()> {
        writeln!(out, "{} pages", self.pages)?;
        for (depth, pages) in &self.depths {
            writeln!(out, "{pages:8} in {depth} {}", if *depth == 1 { "click" } else { "clicks" })?;
        }
        writeln!(out, "{:8} out of reach", self.unreachable.len())?;
        for (title, pages) in
            [("Out of reach", &self.unreachable), ("Orphans", &self.orphans), ("Dead ends", &self.dead_ends)]
        {
            print_list(out, title, pages.iter().cloned())?;
        }
        print_list(out, "Islands", self.islands.iter().map(|island| island.join(", ")))?;
        let threads = self.threads.iter().map(|ToldThread { page, over, by, hanging }| match by {
            By::Link => format!("{page}: only by the link from {over}; {hanging} hang on it"),
            By::Page => format!("{page}: only over {over}; {hanging} hang on it"),
        });
        print_list(out, "Thread pages", threads)?;
        let mut equity: Vec<_> = self.equity.iter().collect();
        equity.sort_by(|one, other| other.1.total_cmp(one.1));
        let most = equity.into_iter().take(20).map(|(page, share)| format!("{:6.2} %  {page}", share * 100.0));
        print_list(out, "Most link equity", most)
    }
}

fn print_list(out: &mut impl Write, title: &str, lines: impl ExactSizeIterator<Item = String>) -> std::io::Result<()> {
    if lines.len() == 0 {
        return Ok(());
    }
    writeln!(out, "\n{title} ({})", lines.len())?;
    lines.into_iter().try_for_each(|line| writeln!(out, "  {}", crate::words::in_a_line(&line)))
}

fn write_graph(out: &mut impl Write, site: &Site, snapshot: &Snapshot) -> std::io::Result<()> {
    let nodes = site.pages().map(|page| GraphNode {
        id: page.id.0,
        address: path_of(&page.address),
        title: page.title.clone(),
        kind: page.kind.as_str().to_owned(),
        depth: site.depth(page.id),
    });
    let edges = snapshot.numbers().flat_map(|from| {
        let id = |number: u32| snapshot.page(number).map_or(0, |page| page.0);
        snapshot.roads().of(from).map(move |road| {
            let is_content = road.strength.carrier() == strelm_core::reach::Carrier::Content;
            GraphEdge {
                from: id(from),
                to: id(road.to),
                content: u32::from(is_content),
                boilerplate: u32::from(!is_content),
            }
        })
    });
    graph::write(out, nodes, edges)
}
