//! The Desk of a page: the page as readers see it, what leads in, and where it leads out.

use std::collections::HashMap;
use std::sync::Arc;

use actix_web::{get, web};
use serde::Serialize;
use strelm_core::document::{Document, Region};
use strelm_core::openings::LIKELY;
use strelm_core::site::{Address, PageFacts, PageId};
use strelm_core::tray::{Passed, TrayEntry, TrayState};
use strelm_store::SiteId;
use strelm_store::boilerplate;
use strelm_store::page::{self, PageText, Says, StoredLink};
use strelm_store::passed;
use strelm_store::rule;
use utoipa::ToSchema;

use super::desk_links::links_out;
use super::desk_rows::{LinkRow, OpeningRow, PassedRow, Sentence, TakenRow};
use super::kept_shown::ToShow;
use super::row::{PageRef, PageRow};
use super::shown::{Mark, Marked, ShownManner};
use super::why_nothing;
use crate::api::state::page_of;
use crate::api::tray::show::Doing;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// Links in beyond these are counted, not listed.
const MOST_LINKS: i64 = 500;

/// All that the Desk shows of a page.
#[derive(Debug, Serialize, ToSchema)]
pub struct Desk {
    pub page: PageRow,
    pub heading: Option<String>,
    /// Sanitised HTML of the page's content. `data-link`, `data-opening` and `data-tray` number the marked places,
    /// `data-picture` the pictures that could carry a link.
    pub html: String,
    /// Whether that is the page as readers see it.
    pub shown_manner: ShownManner,
    pub links_in: Vec<LinkRow>,
    pub openings_in: Vec<OpeningRow>,
    pub taken_in: Vec<TakenRow>,
    pub links_out: Vec<LinkRow>,
    /// In the order of the numbers in `data-opening`, from 1.
    pub openings_out: Vec<OpeningRow>,
    pub taken_out: Vec<TakenRow>,
    /// Openings with a smaller fit are shown to those who ask.
    pub likely: f64,
    /// Why there are no openings, in plain words; null where there are some.
    pub nothing_in: Option<String>,
    pub nothing_out: Option<String>,
    pub passed: Vec<PassedRow>,
    /// What the page's file says of itself; empty for pages that were crawled.
    pub published: Option<String>,
    pub description: Option<String>,
    pub tags: Vec<String>,
    /// Whether the page asks search engines to leave it out.
    pub noindex: bool,
    /// The page that it names in its stead.
    pub canonical: Option<PageRef>,
    /// The same page in other languages, as far as they are pages of the site.
    pub versions: Vec<VersionRef>,
}

/// The page in another language.
#[derive(Debug, Serialize, ToSchema)]
pub struct VersionRef {
    pub language: String,
    pub page: PageRef,
}

/// O(words of the page and of the pages that mention it), and seven queries by key at most.
#[utoipa::path(operation_id = "pages_desk", responses((status = 200, body = Desk), (status = 404, body = Problem)))]
#[get("/sites/{site}/pages/{page}/desk")]
pub async fn desk(state: web::Data<State>, path: web::Path<(i32, u32)>) -> Result<web::Json<Desk>, ApiError> {
    let (site, number) = path.into_inner();
    let live = state.site(site).await?;
    let (id, page) = (SiteId(site), PageId(number));
    let address = live.ask(move |model| page_of(model, number).map(|page| page.address.to_string())).await??;
    let inbound = page::links_to(&state.pool, id, &[address], MOST_LINKS).await?;
    let outbound = page::links(&state.pool, id, Some(&[page])).await?;
    let passed = passed::of_page(&state.pool, id, page).await?;
    let by_rules = rule::made_links(&state.pool, id, None, Some(page)).await?;
    let text = page::text(&state.pool, id, page).await?;
    let text = text.ok_or(ApiError::NotFound("There is no such page. It may have been removed."))?;
    let PageText { source, main_html, says, .. } = text;
    let read = move || match source {
        Some(source) => Document::read(source.text, source.format),
        None => Document::from_html(main_html),
    };
    let boilerplate = boilerplate::on_page(&state.pool, id, page).await?;
    let read = move || {
        let mut document = read();
        document.mark_boilerplate(&boilerplate);
        document
    };
    let document = Arc::new(state.aside(read).await?);
    let rows = Rows { inbound, outbound, by_rules, passed, says };
    let read = Arc::clone(&document);
    let lay_out = move |model: &Model| lay_out(model, page_of(model, number)?, &read, rows);
    let (laid_out, marks, address) = live.ask(lay_out).await??;
    // Outside of the lock on the model: whatever the page is made of, nobody else waits for it.
    let shown = state.shown(ToShow { site, page, address, document, marks }).await?;
    Ok(web::Json(Desk { html: shown.html.clone(), shown_manner: shown.manner, ..laid_out }))
}

struct Rows {
    inbound: Vec<StoredLink>,
    outbound: Vec<StoredLink>,
    /// Links of the page that rules made.
    by_rules: Vec<TrayEntry>,
    passed: Vec<(i64, Passed)>,
    says: Says,
}

/// All but the content itself, and what is to be marked in it.
fn lay_out(
    model: &Model,
    page: &PageFacts,
    document: &Document,
    rows: Rows,
) -> Result<(Desk, Vec<Mark>, Address), ApiError> {
    let figures = model.site.figures(page.id).unwrap_or_default();
    let is_current = model.versions.get(&page.id) == Some(&document.hash());
    let mut openings_out = if is_current { model.openings_out(page.id) } else { Vec::new() };
    openings_out.sort_by_key(|opening| opening.words);
    let mut marks: Vec<_> = (1..)
        .zip(&openings_out)
        .map(|(number, opening)| Mark { place: Marked::Words(opening.words), what: "opening", number })
        .collect();
    let planned: Vec<_> = model.planned_on(page.id).collect();
    marks.extend(planned.iter().filter(|taken| taken.link.source_hash == document.hash()).map(|taken| Mark {
        place: taken.picture(document).map_or(Marked::Words(taken.link.words), Marked::Picture),
        what: "tray",
        number: usize::try_from(taken.id.0).unwrap_or_default(),
    }));
    let openings_in = model.openings_in(page.id);
    let other = |address: &Address| {
        let other = model.site.page_at(address).filter(|other| *other != page.id)?;
        PageRef::of(model, other.0).ok()
    };
    let versions =
        page.standing.versions.iter().filter_map(|version| {
            Some(VersionRef { language: version.language.clone(), page: other(&version.address)? })
        });
    let planned_in = model.tray.all().filter(|taken| taken.link.target_page() == Some(page.id));
    let nothing_in = openings_in.is_empty().then(|| why_nothing::inbound(model, page));
    let nothing_out = openings_out.is_empty().then(|| why_nothing::outbound(model, page));
    let laid_out = Desk {
        likely: LIKELY,
        nothing_in,
        nothing_out,
        heading: other_heading(page, &super::row::title(model, page)),
        html: String::new(),
        shown_manner: ShownManner::Page,
        published: rows.says.published,
        description: rows.says.description,
        tags: rows.says.tags,
        noindex: page.standing.noindex,
        canonical: page.standing.canonical.as_ref().and_then(other),
        versions: versions.collect(),
        links_in: inbound_rows(model, page, &rows.inbound),
        openings_in: OpeningRow::gathered(
            openings_in.iter().map(|o| OpeningRow::of(model, o, o.source.0)).collect::<Result<_, _>>()?,
        ),
        taken_in: planned_in.map(|taken| taken_row(model, taken, Some(taken.link.source))).collect::<Result<_, _>>()?,
        links_out: links_out(model, page, document, &rows.outbound, &rows.by_rules),
        openings_out: openings_out.iter().map(|o| OpeningRow::of(model, o, o.target.0)).collect::<Result<_, _>>()?,
        taken_out: planned.into_iter().map(|t| taken_row(model, t, t.link.target_page())).collect::<Result<_, _>>()?,
        passed: rows
            .passed
            .iter()
            .map(|(id, passed)| passed_row(model, page.id, *id, passed))
            .collect::<Result<_, _>>()?,
        page: PageRow::of(model, page, figures),
    };
    Ok((laid_out, marks, page.address.clone()))
}

/// The main heading of a page, where it says something else than its title.
fn other_heading(page: &PageFacts, title: &str) -> Option<String> {
    let letters =
        |text: &str| -> String { text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect() };
    let says = |heading: &&String| [title, page.title.as_str()].iter().all(|title| letters(title) != letters(heading));
    page.heading.as_ref().filter(says).cloned()
}

/// Content links one by one; the same boilerplate link on many pages as one row.
fn inbound_rows(model: &Model, page: &PageFacts, links: &[StoredLink]) -> Vec<LinkRow> {
    let mut rows: Vec<LinkRow> = Vec::new();
    let mut boilerplate: HashMap<(Region, &str), usize> = HashMap::new();
    for link in links.iter().filter(|link| link.page != page.id) {
        if link.region != Region::Content {
            if let Some(row) = boilerplate.get(&(link.region, link.anchor.as_str())) {
                rows[*row].repeated += 1;
                continue;
            }
            boilerplate.insert((link.region, &link.anchor), rows.len());
        }
        let source = PageRef::of(model, link.page.0).ok();
        rows.push(row_of(link, source));
    }
    LinkRow::once_each(rows)
}

fn row_of(link: &StoredLink, page: Option<PageRef>) -> LinkRow {
    LinkRow {
        page,
        fault: None,
        notes: Vec::new(),
        standing: None,
        repair: None,
        address: link.to.to_string(),
        anchor: link.anchor.clone(),
        region: link.region.as_str().to_owned(),
        rule: None,
        repeated: 1,
        times: 1,
    }
}

fn taken_row(model: &Model, taken: &TrayEntry, other: Option<PageId>) -> Result<TakenRow, ApiError> {
    let link = &taken.link;
    let sentence = Sentence::of_link(link);
    Ok(TakenRow {
        change: taken.id.0,
        doing: Doing::of(&link.change),
        page: other.map(|other| PageRef::of(model, other.0)).transpose()?,
        href: link.href.clone(),
        sentence,
        handed_over: taken.state == TrayState::HandedOver,
    })
}

fn passed_row(model: &Model, page: PageId, id: i64, passed: &Passed) -> Result<PassedRow, ApiError> {
    let other = if passed.source == Some(page) { Some(passed.target) } else { passed.source };
    Ok(PassedRow {
        passed: id,
        page: other.map(|other| PageRef::of(model, other.0)).transpose()?,
        source: passed.source.map(|source| source.0),
        target: passed.target.0,
        anchor: passed.anchor.clone(),
        one_place: passed.place.is_some(),
    })
}
