//! All places of links that lead to one faulty address, to be looked at before they are mended together.

use std::collections::HashSet;

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::document::Document;
use strelm_core::site::{Address, PageId};
use strelm_store::SiteId;
use strelm_store::page::{self, PageText};
use utoipa::{IntoParams, ToSchema};

use super::links::{MOST_PAGES, Stored, stored_links};
use crate::api::pages::{PageRef, Sentence};
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// All places of one faulty address, by page.
#[derive(Debug, Serialize, ToSchema)]
pub struct FaultPlaces {
    /// Pages with such links in their content, all of them.
    pub total: usize,
    /// The first of them, each with its places.
    pub pages: Vec<FaultPage>,
    /// Pages that have such links around their content, all of them: they share a template, in which it is to be changed.
    pub around_total: usize,
    pub around: Vec<PageRef>,
    /// The page that they were most likely meant for.
    pub likeliest: Option<PageRef>,
}

/// A page with the places on it.
#[derive(Debug, Serialize, ToSchema)]
pub struct FaultPage {
    pub page: PageRef,
    /// The version that was looked at, to name it when the page is mended; null when the page cannot be edited.
    pub version: Option<String>,
    pub places: Vec<Sentence>,
}

/// Which address is asked about.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    /// Where the links lead, without fragment.
    address: String,
    fragment: Option<String>,
}

/// O(bytes of the pages that are shown), and two queries by key.
#[utoipa::path(operation_id = "faults_places", params(Query), responses((status = 200, body = FaultPlaces), (status = 404, body = Problem)))]
#[get("/sites/{site}/faults/places")]
pub async fn places(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<FaultPlaces>, ApiError> {
    const NONE: ApiError = ApiError::NotFound("No link leads there any more: all of them are mended.");
    let live = state.site(*path).await?;
    let id = SiteId(*path);
    let query = query.into_inner();
    let to = Address::parse(&query.address).map_err(|_| NONE)?;
    let (asked, fragment) = (to.clone(), query.fragment.clone());
    let head = move |model: &Model| -> Result<_, ApiError> {
        let faulty = model.faulty_at(&asked, fragment.as_deref()).ok_or(NONE)?;
        let shown: Vec<_> = faulty.pages.iter().take(MOST_PAGES).copied().collect();
        let refs = |pages: &[PageId], most: usize| -> Result<Vec<_>, ApiError> {
            pages.iter().take(most).map(|page| PageRef::of(model, page.0)).collect()
        };
        let places = FaultPlaces {
            total: faulty.pages.len(),
            pages: refs(&shown, MOST_PAGES)?
                .into_iter()
                .map(|page| FaultPage { page, version: None, places: Vec::new() })
                .collect(),
            around_total: faulty.around.len(),
            around: refs(&faulty.around, 10)?,
            likeliest: faulty.likeliest.map(|page| PageRef::of(model, page.0)).transpose()?,
        };
        Ok((shown, places))
    };
    let (shown, mut places) = live.ask(head).await??;
    let texts = page::texts(&state.pool, id, Some(&shown)).await?;
    let links = page::links(&state.pool, id, Some(&shown)).await?;
    let stored = stored_links(links, &to, query.fragment.as_deref());
    let sentences =
        state.aside(move || texts.into_iter().map(|text| of_page(text, &stored)).collect::<Vec<_>>()).await?;
    for (page, version, sentences) in sentences {
        if let Some(shown) = places.pages.iter_mut().find(|shown| shown.page.number == page.0) {
            (shown.version, shown.places) = (version, sentences);
        }
    }
    Ok(web::Json(places))
}

fn of_page(text: PageText, stored: &Stored) -> (PageId, Option<String>, Vec<Sentence>) {
    let Some(source) = text.source else { return (text.page, None, Vec::new()) };
    let hrefs: HashSet<&str> =
        stored.get(&text.page).into_iter().flat_map(|links| links.keys().map(String::as_str)).collect();
    let version = source.hash.to_string();
    let document = Document::read(source.text, source.format);
    let links = document.links().iter().filter(|link| hrefs.contains(link.href.as_str()));
    let sentences = links.filter_map(|link| Sentence::around(&document, link.text)).collect();
    (text.page, Some(version), sentences)
}
