//! `strelm rescue`: a folder of HTML read without a database, and the fewest links that bring its pages within reach.

use std::collections::BTreeMap;
use std::convert::Infallible;
use std::io::Write;
use std::path::PathBuf;

use anyhow::Context;
use strelm_core::document::{Document, LinkTarget, TextSpan};
use strelm_core::in_order::in_order;
use strelm_core::openings::{AllWanted, Ensemble, Judge, Limits, Opening, OpeningIndex, Taste};
use strelm_core::plan::rescue::{
    Candidate, Patient, Plan, Problem, RescueLimits, Why, Worth, helpful, lacking, plain, solve,
};
use strelm_core::reach::{Snapshot, Ways};
use strelm_core::site::{LinkForm, Moment, PageId, Site};
use strelm_core::tray::Fitting;
use strelm_formats::diff;
use strelm_sources::folder::Folder;

use crate::in_folder::{self, AT_ONCE, FolderSite, path_of};
use crate::openings::row;
use crate::reach::RoadsFrom;
use crate::words::many;

/// Openings that are looked at for each page.
const MOST_OPENINGS: usize = 60;

/// `strelm rescue`: plans which links bring the pages of a folder within reach, without a database.
#[derive(Debug, clap::Args)]
pub struct Rescue {
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Which links are roads
    #[arg(long, value_enum, default_value = "all")]
    roads: RoadsFrom,
    /// Clicks from the entry page to every page, at most
    #[arg(long, default_value_t = 4)]
    depth: u32,
    /// Links to every page from so many different pages, at least
    #[arg(long, default_value_t = 1)]
    links_in: u32,
    /// New links on one page, at most
    #[arg(long, default_value_t = 3)]
    per_page: u32,
    /// Openings of a smaller fit are left out
    #[arg(long, default_value_t = 30.0)]
    fit: f64,
    /// Put the links into the files, and print what changes as a diff
    #[arg(long)]
    apply: bool,
}

/// The folder's graph, and what may be put into it.
struct Planned {
    openings: Vec<Opening>,
    plan: Plan,
    /// What comes of going page by page.
    page_by_page: Worth,
}

impl Rescue {
    /// # Errors
    /// When a part of the folder cannot be read, the entry page is not there, or a file cannot be written.
    pub fn run(&self) -> anyhow::Result<()> {
        let mut read = FolderSite::read_from(&self.folder, &self.entry)?;
        read.corpus.site.set_reach(&[], self.roads.rules(false));
        read.corpus.site.settle();
        let ensemble = read.taught(&self.folder, Ensemble::shipped()?)?;
        let (site, book) = (&read.corpus.site, &read.corpus.book);
        let judge = Judge { site, book, ensemble: &ensemble, taste: Taste::AUTHOR };
        let snapshot = site.snapshot(Moment::Now);
        let Planned { openings, plan, page_by_page } = self.plan(judge, &snapshot);
        self.tell(site, &snapshot, &plan, &page_by_page)?;
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        if self.apply {
            return Ok(self.put(judge, &openings, &mut out)?.flush()?);
        }
        for opening in &openings {
            let name = |page: PageId| site.page(page).map(|facts| path_of(&facts.address)).unwrap_or_default();
            let in_file = (opening.source.0 as usize).checked_sub(1).and_then(|at| read.places.get(at));
            let place = in_file.and_then(|in_file| in_file.bytes_of(opening.words));
            let anchor = book.prose(opening.source).and_then(|prose| prose.text().get(opening.words.range()));
            if let (Some((start, end)), Some(anchor)) = (place, anchor) {
                let (source, target) = (name(opening.source), name(opening.target));
                let line = row((&source, &target), (anchor, start, end), &opening.fit);
                out.write_all(line.unwrap_or_default().as_bytes())?;
            }
        }
        Ok(out.flush()?)
    }

    fn plan(&self, judge: Judge<'_>, snapshot: &Snapshot) -> Planned {
        let ways = Ways::of(snapshot);
        let reversed = snapshot.roads().reversed();
        let rescue = RescueLimits { depth: self.depth, links_in: self.links_in, per_page: self.per_page, pairs: true };
        let wanted = lacking(snapshot, &ways, &reversed, rescue);
        let limits = Limits { most: MOST_OPENINGS, least_fit: self.fit, ..Limits::default() };
        let targets = helpful(&wanted, &ways, &reversed, rescue);
        let index = index_of(judge);
        let openings: Vec<Opening> = targets
            .into_iter()
            .filter_map(|page| snapshot.page(page))
            .flat_map(|page| judge.inbound(Some(&index), page, &AllWanted, limits))
            .collect();
        let candidates = (0..).zip(&openings).filter_map(|(at, opening)| Candidate::of(snapshot, opening, at));
        let problem = Problem::new(snapshot, rescue, wanted, candidates);
        let page_by_page = plain(&problem);
        let plan = solve(&problem, &mut Patient);
        let chosen = plan.chosen.iter().map(|at| problem.candidates()[*at as usize].offer as usize);
        let mut openings: Vec<Opening> = chosen.filter_map(|offer| openings.get(offer).cloned()).collect();
        openings.sort_by_key(|opening| (opening.source, opening.words));
        Planned { openings, plan, page_by_page }
    }

    /// Says on the standard error stream what the plan comes to, and who is left.
    fn tell(&self, site: &Site, snapshot: &Snapshot, plan: &Plan, page_by_page: &Worth) -> std::io::Result<()> {
        let mut err = std::io::stderr().lock();
        let asked = plan.worth.helped as usize + plan.left.len();
        let bound = match plan.least_edited == plan.worth.edited {
            true => "no plan does with fewer".to_owned(),
            false => format!("no plan does with fewer than {}", plan.least_edited),
        };
        let help = match plan.worth.helped {
            0 => "no opening helps".to_owned(),
            helped => format!(
                "{helped} can be helped with {} on {} ({bound})",
                many(plan.chosen.len(), "link"),
                many(plan.worth.edited as usize, "page"),
            ),
        };
        writeln!(err, "{} out of reach, too deep or with too few links in; {help}", many(asked, "page"))?;
        if plan.worth.is_better_than(page_by_page) {
            let (helped, edited) = (page_by_page.helped, many(page_by_page.edited as usize, "page"));
            writeln!(err, "page by page {helped} would be helped with edits on {edited}")?;
        }
        for (page, why) in &plan.left {
            let facts = snapshot.page(*page).and_then(|page| site.page(page));
            let name = facts.map(|facts| path_of(&facts.address)).unwrap_or_default();
            let why = match why {
                Why::NoLink => format!("no opening of fit {} leads there from within reach", self.fit),
                Why::TooFew { most } => {
                    format!("{most} pages link there or could, and {} are asked for", self.links_in)
                }
                Why::TooDeep => format!("every way there is longer than {} clicks", self.depth),
                Why::Crowded => {
                    "what could help it is in the way of other links, or of the limit for a page".to_owned()
                }
            };
            writeln!(err, "{}: {why}", crate::words::in_a_line(&name))?;
        }
        Ok(())
    }

    /// Puts the links into the files and prints what changed. Words that are not there any more as they were read carry
    /// none, and that is said.
    fn put<W: Write>(&self, judge: Judge<'_>, openings: &[Opening], mut out: W) -> anyhow::Result<W> {
        let folder = Folder::open(&self.folder, in_folder::base()?)?;
        let mut by_page: BTreeMap<PageId, Vec<&Opening>> = BTreeMap::new();
        openings.iter().for_each(|opening| by_page.entry(opening.source).or_default().push(opening));
        for (source, openings) in by_page {
            let (Some(facts), Some(prose)) = (judge.site.page(source), judge.book.prose(source)) else { continue };
            let path = path_of(&facts.address);
            let is_as_read = |seen: &Document| seen.text().as_str() == prose.text();
            let seen = in_folder::document(&self.folder, &facts.address)?.filter(is_as_read);
            let current = folder.source(&facts.address).with_context(|| path.clone())?;
            let document = Document::read(current.text.as_str(), current.format);
            let mut edits = Fitting::on(document.hash());
            for opening in openings {
                let Some(target) = judge.site.page(opening.target) else { continue };
                let href = LinkForm::default().write(&facts.address, &target.address);
                if let Err(why) = put_one(&mut edits, &document, seen.as_ref(), opening.words, href) {
                    writeln!(std::io::stderr(), "{path}: {why}")?;
                }
            }
            let after = edits.compose()?.apply(&current.text)?;
            folder.replace(&facts.address, &current, &after).with_context(|| path.clone())?;
            write!(out, "{}", diff::unified(&path, &current.text, &after))?;
        }
        Ok(out)
    }
}

/// Adds a link on words that stand so in `seen`, the page as it was read, to the edits of the page as it can be written:
/// without what stands above it in its file.
fn put_one(
    edits: &mut Fitting,
    document: &Document,
    seen: Option<&Document>,
    words: TextSpan,
    href: String,
) -> anyhow::Result<()> {
    let sentence = seen.and_then(|seen| seen.quote_around(words)).context("the page is not as it was read")?;
    let words = document.find_again(&sentence.as_quote(), words.start)?;
    Ok(edits.add(document.put_link(words, &LinkTarget::to(href))?)?)
}

/// What is found on all pages, looked at once each and on all cores. O(words of the site).
fn index_of(judge: Judge<'_>) -> OpeningIndex {
    let sitting = judge.sit();
    let mut index = OpeningIndex::default();
    let pages: Vec<PageId> = judge.site.pages().map(|page| page.id).collect();
    let look = |page| (page, sitting.candidates(page, OpeningIndex::MOST));
    let Ok(()) = in_order(pages, AT_ONCE, look, |(page, row)| {
        index.put(page, row);
        Ok::<(), Infallible>(())
    });
    index
}
