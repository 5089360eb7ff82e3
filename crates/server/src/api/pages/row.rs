//! A page as a row, with all its figures.

use serde::{Deserialize, Serialize};
use strelm_core::site::{Figures, PageFacts, PageKind};
use utoipa::ToSchema;

use crate::api::{ApiError, state};
use strelm_live::Model;

/// What kind of page it is.
#[derive(Debug, Serialize, Deserialize, ToSchema, Clone, Copy, PartialEq, Eq)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    Page,
    Post,
    Product,
    Collection,
    TermArchive,
    File,
}

impl From<Kind> for PageKind {
    fn from(kind: Kind) -> Self {
        match kind {
            Kind::Page => Self::Page,
            Kind::Post => Self::Post,
            Kind::Product => Self::Product,
            Kind::Collection => Self::Collection,
            Kind::TermArchive => Self::TermArchive,
            Kind::File => Self::File,
        }
    }
}

impl From<PageKind> for Kind {
    fn from(kind: PageKind) -> Self {
        match kind {
            PageKind::Page => Self::Page,
            PageKind::Post => Self::Post,
            PageKind::Product => Self::Product,
            PageKind::Collection => Self::Collection,
            PageKind::TermArchive => Self::TermArchive,
            PageKind::File => Self::File,
        }
    }
}

/// A page with its figures.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageRow {
    pub number: u32,
    /// Without the name of the site.
    pub title: String,
    pub address: String,
    /// Path and query.
    pub path: String,
    pub kind: Kind,
    pub category: Option<String>,
    pub words: u32,
    /// Other pages that link here, the tray included.
    pub links_in: u32,
    /// Of those, pages that link here from their content.
    pub content_links_in: u32,
    pub links_out: u32,
    pub links_away: u32,
    /// Links in the tray that lead here, and that lead away from here.
    pub planned_in: u32,
    pub planned_out: u32,
    /// Clicks from the entry page; null when the page cannot be reached.
    pub depth: Option<u32>,
    /// Links on it that lead nowhere.
    pub broken: u32,
    /// Openings on other pages that would lead here, and the best fit among them, 0 to 100.
    pub openings_in: u32,
    pub best_in: Option<f64>,
    /// Openings in its text, and the best fit among them.
    pub openings_out: u32,
    pub best_out: Option<f64>,
    /// Link equity as the site stands, beside that of the average page, which is 1; null while it is not known.
    pub equity: Option<f64>,
    /// How much an hour on it pays, 0 to 100.
    pub attention: f64,
    /// Whether the latest reading found it for the first time.
    pub is_fresh: bool,
    pub is_entry: bool,
    pub editable: bool,
}

/// Just enough of a page to name it and to go there.
#[derive(Debug, Serialize, ToSchema, Clone)]
pub struct PageRef {
    pub number: u32,
    pub title: String,
    pub path: String,
    pub kind: Kind,
    pub category: Option<String>,
    pub depth: Option<u32>,
    pub is_orphan: bool,
    /// Whether it is no longer on the site.
    pub is_gone: bool,
}

impl PageRow {
    /// With the titles that the model has.
    pub fn of(model: &Model, page: &PageFacts, figures: Figures) -> Self {
        let tally = model.tally(page.id);
        Self {
            number: page.id.0,
            title: title(model, page),
            address: page.address.to_string(),
            path: page.address.from_root(),
            kind: page.kind.into(),
            category: page.category.clone(),
            words: page.words,
            links_in: figures.links_in,
            content_links_in: figures.content_links_in,
            links_out: figures.links_out,
            links_away: figures.links_away,
            planned_in: figures.planned_in,
            planned_out: figures.planned_out,
            depth: figures.depth,
            broken: model.broken_on(page.id),
            openings_in: tally.inbound,
            best_in: tally.best_in,
            openings_out: tally.outbound,
            best_out: tally.best_out,
            equity: model.equity_of(page.id),
            attention: model.attention(page, &figures),
            is_fresh: model.is_fresh(page.id),
            is_entry: model.site.is_entry(page.id),
            editable: page.editable,
        }
    }
}

impl PageRef {
    /// Also of a page that is gone: what was decided about it still names it.
    pub fn of(model: &Model, number: u32) -> Result<Self, ApiError> {
        let gone = model.gone.get(&strelm_core::site::PageId(number)).map(|known| &known.facts);
        let page = match gone {
            Some(page) => page,
            None => state::page_of(model, number)?,
        };
        let figures = model.site.figures(page.id);
        Ok(Self {
            number,
            title: title(model, page),
            path: page.address.from_root(),
            kind: page.kind.into(),
            category: page.category.clone(),
            depth: figures.and_then(|figures| figures.depth),
            is_orphan: figures.is_some_and(|figures| figures.is_orphan()) && !model.site.is_entry(page.id),
            is_gone: gone.is_some(),
        })
    }
}

/// What a page is called: its title, else its heading, else its address.
pub fn title(model: &Model, page: &PageFacts) -> String {
    model.book.own_title(&page.title).to_owned()
}
