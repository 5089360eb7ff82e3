//! What wants attention, the most gainful first. Each line opens the place to act.

use actix_web::{get, web};
use serde::Serialize;
use strelm_store::SiteId;
use strelm_store::reading::Reading;
use strelm_store::release::{self, Release, ReleaseState};
use utoipa::ToSchema;

use crate::api::pages::{OpeningRow, PageRef, Repair};
use crate::api::reach::WAIT;
use crate::api::reach::hanging::{IslandRow, ThreadRow};
use crate::api::readings::list::{ReadingPhase, ReadingStatus};
use crate::api::{ApiError, Problem, State};
use strelm_core::audit::FaultyPlace;
use strelm_core::audit::ReachEdit;
use strelm_core::site::{Moment, PageId};
use strelm_live::{Model, Only, PageQuery, Sounded};

/// Clicks that are too many for most readers.
const DEEP: u32 = 5;

/// Edits that are named.
const MOST_EDITS: usize = 8;

/// Pages that are named under each line.
const NAMED: usize = 5;

/// What wants attention, in the order of gain.
#[derive(Debug, Serialize, ToSchema)]
pub struct Today {
    /// What is interrupted or waits comes before what could be better.
    pub releases_interrupted: Vec<InterruptedRelease>,
    /// The latest reading, when it stopped, failed, or has something to say.
    pub reading: Option<ReadingStatus>,
    /// The best openings of the whole site, one for each page.
    pub openings: Vec<BestOpening>,
    pub changes_waiting: usize,
    pub warnings: usize,
    /// Where to start instead, when hardly anything can be reached from where readers are said to.
    pub better_entry: Option<BetterEntryRow>,
    pub unreachable: PageLine,
    pub orphans: PageLine,
    pub without_content_links: PageLine,
    pub fresh_unlinked: PageLine,
    pub dead_ends: PageLine,
    /// Pages that take more than four clicks.
    pub deep: PageLine,
    /// Pages that hang on one link or page, and groups out of reach that hang together.
    pub threads: ThreadLine,
    pub islands: IslandLine,
    /// What came within reach with the latest reading, and what was lost, by the edits that did it.
    pub came: Vec<ReachEditRow>,
    pub lost: Vec<ReachEditRow>,
    /// How many pages came and were lost; those of the first few edits are named.
    pub came_count: usize,
    pub lost_count: usize,
    /// Whether these are still being worked out.
    pub is_sounding: bool,
    pub broken: BrokenLines,
    /// Links that lead to their page only because the site sends readers on.
    pub detours: DetourLines,
    /// Pages of the site; 0 when it was not read yet.
    pub pages: usize,
}

/// Pages that came within reach or were lost by one edit.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReachEditRow {
    pub edit: EditKind,
    /// The page whose link it is.
    pub from: Option<PageRef>,
    /// The page to which it leads; or the page itself.
    pub to: Option<PageRef>,
    pub total: usize,
    /// The first few.
    pub pages: Vec<PageRef>,
}

/// What kind of edit it was.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum EditKind {
    Link,
    Page,
    Redirect,
    Entry,
}

/// Pages to which all ways lead over one link or one page.
#[derive(Debug, Serialize, ToSchema)]
pub struct ThreadLine {
    pub total: usize,
    /// Those on which most hangs.
    pub first: Vec<ThreadRow>,
}

/// Pages that link among themselves and cannot be reached.
#[derive(Debug, Serialize, ToSchema)]
pub struct IslandLine {
    pub total: usize,
    /// Pages on all of them.
    pub pages: usize,
    /// The largest.
    pub first: Vec<IslandRow>,
}

/// A page from which many more pages would be within reach.
#[derive(Debug, Serialize, ToSchema)]
pub struct BetterEntryRow {
    pub page: PageRef,
    /// How many pages can be reached from it, and how many from where readers are said to start.
    pub reaches: usize,
    pub now: usize,
    /// All pages.
    pub of: usize,
}

/// A release that waits for a decision.
#[derive(Debug, Serialize, ToSchema)]
pub struct InterruptedRelease {
    pub release: i64,
    pub message: String,
}

/// An opening with the page on which it stands; its own page is where it leads.
#[derive(Debug, Serialize, ToSchema)]
pub struct BestOpening {
    pub source: PageRef,
    pub opening: OpeningRow,
}

/// Pages with the same trouble.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageLine {
    pub total: usize,
    /// The first few, those first where most is to be gained.
    pub pages: Vec<WantingPage>,
}

/// A page that lacks something, and what would help.
#[derive(Debug, Serialize, ToSchema)]
pub struct WantingPage {
    pub page: PageRef,
    pub words: u32,
    pub links_in: u32,
}

/// Broken links: the worst of them, and how many there are.
#[derive(Debug, Serialize, ToSchema)]
pub struct BrokenLines {
    pub links: usize,
    pub fragments: usize,
    /// Pages on which they stand.
    pub pages: usize,
    /// Addresses and places to which they lead.
    pub addresses: usize,
    pub first: Vec<FaultRow>,
}

/// Links that lead by a detour: the first of them, and how many there are.
#[derive(Debug, Serialize, ToSchema)]
pub struct DetourLines {
    pub links: usize,
    pub addresses: usize,
    pub first: Vec<FaultRow>,
}

/// All links that lead to one faulty place.
#[derive(Debug, Serialize, ToSchema)]
pub struct FaultRow {
    /// The page on which most readers meet it.
    pub page: PageRef,
    /// Path and fragment.
    pub to: String,
    /// Where they lead, without fragment.
    pub address: String,
    pub fragment: Option<String>,
    pub why: String,
    /// How often it stands in content, and on how many pages.
    pub times: u32,
    pub pages: usize,
    /// How many pages have it around their content.
    pub around: usize,
    /// One of those.
    pub around_page: Option<PageRef>,
    pub only_boilerplate: bool,
    /// How it can be mended on the first page; nothing when it cannot from here.
    pub repair: Option<Repair>,
}

/// O(pages) once after a change, else O(1), and two queries by key.
#[utoipa::path(operation_id = "today_show", responses((status = 200, body = Today), (status = 404, body = Problem)))]
#[get("/sites/{site}/today")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Today>, ApiError> {
    let live = state.site(*path).await?;
    let id = SiteId(*path);
    let sounded = live.soundings(Moment::Now, WAIT).await?;
    let latest = strelm_store::reading::latest(&state.pool, id).await?;
    let releases = release::all(&state.pool, id, 5).await?;
    Ok(web::Json(live.ask(move |model| today(model, latest, releases, &sounded)).await??))
}

fn today(model: &Model, latest: Option<Reading>, releases: Vec<Release>, sounded: &Sounded) -> Result<Today, ApiError> {
    let is_being_read = latest.as_ref().is_some_and(|reading| reading.finished_at.is_none());
    // In the first reading every page is new, which is no news.
    let is_first = model.latest.is_none_or(|latest| latest.is_first);
    let reading = latest.map(|reading| ReadingStatus::of(reading, chrono::Utc::now())).filter(|reading| {
        matches!(reading.phase, ReadingPhase::Stopped | ReadingPhase::Failed | ReadingPhase::Asking)
            || reading.message.is_some()
            || reading.unread > 0
            || (!is_first && reading.fresh + reading.changed + reading.vanished + reading.moved > 0)
    });
    let interrupted = releases.into_iter().filter(|release| {
        release.state == ReleaseState::Interrupted || (release.state == ReleaseState::Out && release.message.is_some())
    });
    let tray = crate::api::sites::show::tray_figures(model);
    let edits = model.reach_edits();
    Ok(Today {
        releases_interrupted: interrupted
            .map(|release| InterruptedRelease { release: release.id.0, message: release.message.unwrap_or_default() })
            .collect(),
        reading,
        openings: openings(model)?,
        changes_waiting: tray.links,
        warnings: tray.warnings,
        // While pages still come, little says what can be reached.
        better_entry: if is_being_read { None } else { better_entry(model)? },
        unreachable: line(model, &PageQuery { only: Some(Only::Unreachable), ..PageQuery::default() })?,
        orphans: line(model, &PageQuery { only: Some(Only::Orphans), ..PageQuery::default() })?,
        without_content_links: line(model, &without_content_links())?,
        fresh_unlinked: line(model, &PageQuery { only: Some(Only::FreshUnlinked), ..PageQuery::default() })?,
        deep: line(model, &deep())?,
        threads: threads(model, sounded),
        islands: islands(model, sounded),
        came: edit_rows(model, &edits.came),
        came_count: pages_of(&edits.came),
        lost: edit_rows(model, &edits.lost),
        lost_count: pages_of(&edits.lost),
        is_sounding: !sounded.is_fresh || !model.reach_is_compared(),
        dead_ends: line(model, &PageQuery { only: Some(Only::DeadEnds), ..PageQuery::default() })?,
        broken: broken(model)?,
        detours: detours(model)?,
        pages: model.totals().pages,
    })
}

fn pages_of(edits: &[(ReachEdit, Vec<PageId>)]) -> usize {
    edits.iter().map(|(_, pages)| pages.len()).sum()
}

fn edit_rows(model: &Model, edits: &[(ReachEdit, Vec<PageId>)]) -> Vec<ReachEditRow> {
    let page = |page: PageId| PageRef::of(model, page.0).ok();
    let row = |(edit, pages): &(ReachEdit, Vec<PageId>)| {
        let (edit, from, to) = match *edit {
            ReachEdit::Link { from, to } => (EditKind::Link, page(from), page(to)),
            ReachEdit::Redirect { from, to } => (EditKind::Redirect, page(from), page(to)),
            ReachEdit::Page(to) => (EditKind::Page, None, page(to)),
            ReachEdit::Entry(to) => (EditKind::Entry, None, page(to)),
        };
        let first = pages.iter().take(NAMED).filter_map(|number| page(*number)).collect();
        ReachEditRow { edit, from, to, total: pages.len(), pages: first }
    };
    edits.iter().take(MOST_EDITS).map(row).collect()
}

fn threads(model: &Model, sounded: &Sounded) -> ThreadLine {
    let Some(soundings) = &sounded.soundings else { return ThreadLine { total: 0, first: Vec::new() } };
    // With one link a page hangs on it as a rule; worth a line is what takes others with it. These come first.
    let takes_others = soundings.threads().partition_point(|thread| thread.hanging > 1);
    let first = soundings.threads()[..takes_others].iter().take(NAMED);
    let first = first.filter_map(|thread| ThreadRow::of(model, soundings, thread)).collect();
    ThreadLine { total: takes_others, first }
}

fn islands(model: &Model, sounded: &Sounded) -> IslandLine {
    let islands = sounded.soundings.as_ref().map_or(&[][..], |soundings| soundings.islands());
    let row = |island| IslandRow::of(model, sounded.soundings.as_ref()?, island);
    IslandLine {
        total: islands.len(),
        pages: islands.iter().map(|island| island.pages.len()).sum(),
        first: islands.iter().take(NAMED).filter_map(row).collect(),
    }
}

fn better_entry(model: &Model) -> Result<Option<BetterEntryRow>, ApiError> {
    let Some(better) = model.better_entry() else { return Ok(None) };
    let page = PageRef::of(model, better.page.0)?;
    Ok(Some(BetterEntryRow { page, reaches: better.reaches, now: better.now, of: better.of }))
}

fn openings(model: &Model) -> Result<Vec<BestOpening>, ApiError> {
    let openings = model.best_openings();
    let best = openings.iter().map(|opening| {
        let source = PageRef::of(model, opening.source.0)?;
        Ok(BestOpening { source, opening: OpeningRow::of(model, opening, opening.target.0)? })
    });
    best.collect()
}

/// Pages to which menus lead, but no text does.
fn without_content_links() -> PageQuery {
    let ranges = strelm_live::ColumnRange::parse_all("content_links_in:..0,links_in:1..,words:1..").unwrap_or_default();
    PageQuery { ranges, ..PageQuery::default() }
}

/// Pages beyond the depth to which readers go.
fn deep() -> PageQuery {
    let ranges = strelm_live::ColumnRange::parse_all(&format!("depth:{DEEP}..1000000")).unwrap_or_default();
    PageQuery { ranges, ..PageQuery::default() }
}

fn line(model: &Model, wish: &PageQuery) -> Result<PageLine, ApiError> {
    let gainful = model.gainful(wish);
    let named = gainful.first.iter().take(NAMED).map(|id| {
        let page = PageRef::of(model, id.0)?;
        let words = model.site.page(*id).map_or(0, |page| page.words);
        Ok(WantingPage { page, words, links_in: model.site.figures(*id).unwrap_or_default().links_in })
    });
    Ok(PageLine { total: gainful.total, pages: named.collect::<Result<_, ApiError>>()? })
}

fn broken(model: &Model) -> Result<BrokenLines, ApiError> {
    let totals = model.totals();
    let faulty = model.faulty();
    Ok(BrokenLines {
        links: totals.broken_links,
        fragments: totals.broken_fragments,
        pages: model.broken().len(),
        addresses: faulty.len(),
        first: faulty.iter().take(2 * NAMED).map(|faulty| row_of(model, faulty)).collect::<Result<_, ApiError>>()?,
    })
}

fn detours(model: &Model) -> Result<DetourLines, ApiError> {
    let faulty = model.detoured();
    Ok(DetourLines {
        links: faulty.iter().map(|faulty| (faulty.content + faulty.boilerplate) as usize).sum(),
        addresses: faulty.len(),
        first: faulty.iter().take(NAMED).map(|faulty| row_of(model, faulty)).collect::<Result<_, ApiError>>()?,
    })
}

fn row_of(model: &Model, faulty: &FaultyPlace) -> Result<FaultRow, ApiError> {
    let fragment = faulty.fragment.as_ref().map(|fragment| format!("#{fragment}")).unwrap_or_default();
    let around_page = faulty.around.first().map(|page| PageRef::of(model, page.0)).transpose()?;
    let first = faulty.pages.first().or(faulty.around.first()).copied();
    let first = first.ok_or(ApiError::NotFound("No link leads there any more."))?;
    Ok(FaultRow {
        page: PageRef::of(model, first.0)?,
        to: format!("{}{fragment}", faulty.to.from_root()),
        address: faulty.to.to_string(),
        fragment: faulty.fragment.clone(),
        why: faulty.fault.to_string(),
        times: faulty.content,
        pages: faulty.pages.len(),
        around: faulty.around.len(),
        around_page,
        only_boilerplate: faulty.content == 0,
        repair: Repair::on(model, first, faulty),
    })
}
