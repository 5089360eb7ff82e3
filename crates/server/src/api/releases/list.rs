//! History: the releases of a site, the latest first.

use actix_web::{get, web};
use chrono::{DateTime, Utc};
use serde::Serialize;
use strelm_core::document::Sighting;
use strelm_core::site::PageId;
use strelm_core::tray::{TrayEntry, TrayState};
use strelm_store::SiteId;
use strelm_store::release::{self, PageState, Release, ReleasePage, ReleaseState};
use strelm_store::site::Way;
use strelm_store::tray;
use utoipa::ToSchema;

use crate::api::pages::{PageRef, Sentence};
use crate::api::tray::show::{Doing, target_of};
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

const MOST_RELEASES: i64 = 100;

/// How far a release is.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReleasePhase {
    Waiting,
    Running,
    /// Pages still wait; somebody decides how it goes on.
    Interrupted,
    Out,
    TakingBack,
    TakenBack,
}

/// What became of a page in a release.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PagePhase {
    Waiting,
    Out,
    HeldBack,
    TakenBack,
    NotTakenBack,
}

/// How what is in the tray gets to a site.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReleaseWay {
    /// Strelm writes it there.
    Written,
    /// Somebody gets a list of it and brings it there.
    HandedOver,
}

impl From<Way> for ReleaseWay {
    fn from(way: Way) -> Self {
        match way {
            Way::Written => Self::Written,
            Way::HandedOver => Self::HandedOver,
        }
    }
}

/// What became of a link that was handed over.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HandedPhase {
    /// The site was not read since.
    HandedOver,
    There,
    /// The page leads there, from other words.
    OtherWords,
    NotYet,
    SentenceGone,
    /// It was withdrawn or held back, and is in the tray.
    InTray,
    /// It was withdrawn, and dropped since.
    Dropped,
}

impl HandedPhase {
    const fn of(taken: &TrayEntry) -> Self {
        match (taken.state, taken.sighting) {
            (TrayState::Tray, _) => Self::InTray,
            (TrayState::Dropped, _) => Self::Dropped,
            (_, None) => Self::HandedOver,
            (_, Some(Sighting::There)) => Self::There,
            (_, Some(Sighting::OtherWords)) => Self::OtherWords,
            (_, Some(Sighting::NotYet)) => Self::NotYet,
            (_, Some(Sighting::SentenceGone)) => Self::SentenceGone,
        }
    }
}

/// A release with its pages.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReleaseRow {
    pub release: i64,
    pub way: ReleaseWay,
    pub phase: ReleasePhase,
    /// Why it was interrupted, or not taken back as a whole.
    pub message: Option<String>,
    pub created_at: DateTime<Utc>,
    pub finished_at: Option<DateTime<Utc>>,
    pub taken_back_at: Option<DateTime<Utc>>,
    /// Links that are, or were, out on the site.
    pub links: usize,
    pub pages: Vec<ReleasedPage>,
    /// Whether something of it is out and can be taken back.
    pub can_take_back: bool,
    /// Whether something of it was handed over and not seen on the site yet.
    pub can_withdraw: bool,
}

/// A page of a release with its links.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReleasedPage {
    pub page: PageRef,
    /// Where the page is on the live site.
    pub address: String,
    pub phase: PagePhase,
    /// What to do when it was held back or not taken back.
    pub message: Option<String>,
    pub links: Vec<ReleasedLink>,
}

/// A link of a release.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReleasedLink {
    pub doing: Doing,
    /// Nothing when a link was taken off.
    pub target: Option<PageRef>,
    pub sentence: Sentence,
    /// Of a release that was handed over.
    pub handed: Option<HandedPhase>,
}

/// The latest releases of a site, the newest first.
#[utoipa::path(operation_id = "releases_list", responses((status = 200, body = [ReleaseRow]), (status = 404, body = Problem)))]
#[get("/sites/{site}/releases")]
pub async fn list(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<Vec<ReleaseRow>>, ApiError> {
    let live = state.site(*path).await?;
    let releases = release::all(&state.pool, SiteId(*path), MOST_RELEASES).await?;
    let ids: Vec<_> = releases.iter().map(|release| release.id).collect();
    let pages = release::pages(&state.pool, &ids).await?;
    let links = tray::of_releases(&state.pool, &ids).await?;
    let rows = move |model: &Model| {
        let row = |release: &Release| {
            let pages = pages.iter().filter(|page| page.release == release.id);
            let links: Vec<_> = links.iter().filter(|(id, _)| *id == release.id).map(|(_, link)| link).collect();
            release_row(model, release, pages, &links)
        };
        releases.iter().map(row).collect::<Result<_, _>>()
    };
    Ok(web::Json(live.ask(rows).await??))
}

fn release_row<'p>(
    model: &Model,
    release: &Release,
    pages: impl Iterator<Item = &'p ReleasePage>,
    links: &[&TrayEntry],
) -> Result<ReleaseRow, ApiError> {
    let pages: Vec<_> = pages.collect();
    let is_out = |page: &&&ReleasePage| matches!(page.state, PageState::Out | PageState::NotTakenBack);
    Ok(ReleaseRow {
        release: release.id.0,
        way: release.way.into(),
        phase: match release.state {
            ReleaseState::Waiting => ReleasePhase::Waiting,
            ReleaseState::Running => ReleasePhase::Running,
            ReleaseState::Interrupted => ReleasePhase::Interrupted,
            ReleaseState::Out => ReleasePhase::Out,
            ReleaseState::TakingBack => ReleasePhase::TakingBack,
            ReleaseState::TakenBack => ReleasePhase::TakenBack,
        },
        message: release.message.clone(),
        created_at: release.created_at,
        finished_at: release.finished_at,
        taken_back_at: release.taken_back_at,
        links: links.len(),
        can_take_back: release.way == Way::Written
            && release.state == ReleaseState::Out
            && pages.iter().any(|page| is_out(&page)),
        can_withdraw: release.state == ReleaseState::Out
            && links.iter().any(|taken| taken.state == TrayState::HandedOver),
        pages: pages.iter().map(|page| page_row(model, release.way, page, links)).collect::<Result<_, _>>()?,
    })
}

fn page_row(model: &Model, way: Way, page: &ReleasePage, links: &[&TrayEntry]) -> Result<ReleasedPage, ApiError> {
    let on_page = links.iter().filter(|taken| taken.link.source == page.page);
    let link = |taken: &&TrayEntry| {
        let link = &taken.link;
        Ok::<_, ApiError>(ReleasedLink {
            doing: Doing::of(&link.change),
            target: target_of(model, link)?,
            sentence: Sentence::of_link(link),
            handed: (way == Way::HandedOver).then(|| HandedPhase::of(taken)),
        })
    };
    Ok(ReleasedPage {
        page: PageRef::of(model, page.page.0)?,
        address: address_of(model, page.page),
        phase: match page.state {
            PageState::Waiting => PagePhase::Waiting,
            PageState::Out => PagePhase::Out,
            PageState::HeldBack => PagePhase::HeldBack,
            PageState::TakenBack => PagePhase::TakenBack,
            PageState::NotTakenBack => PagePhase::NotTakenBack,
        },
        message: page.message.clone(),
        links: on_page.map(link).collect::<Result<_, _>>()?,
    })
}

fn address_of(model: &Model, page: PageId) -> String {
    let gone = model.gone.get(&page).map(|known| &known.facts);
    gone.or_else(|| model.site.page(page)).map(|page| page.address.to_string()).unwrap_or_default()
}
