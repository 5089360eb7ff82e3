//! The links that say an anchor text, each in its sentence.

use std::collections::HashMap;

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::document::{Document, LinkKind};
use strelm_core::site::{Address, PageId};
use strelm_live::Model;
use strelm_store::SiteId;
use strelm_store::page;
use utoipa::ToSchema;

use crate::api::pages::{PageRef, Sentence, Window};
use crate::api::{ApiError, Problem, State};

/// The largest window.
const MOST_PLACES: usize = 200;

/// Texts that are asked for at once.
const MOST_TEXTS: usize = 500;

/// Which anchor texts.
#[derive(Debug, Deserialize, ToSchema)]
pub struct AnchorKeys {
    /// As the list of anchor texts has them.
    keys: Vec<String>,
}

/// Links in the content of pages that say a text.
#[derive(Debug, Serialize, ToSchema)]
pub struct AnchorPlaces {
    pub total: usize,
    pub places: Vec<AnchorPlaceRow>,
}

/// A link that says a text.
#[derive(Debug, Serialize, ToSchema)]
pub struct AnchorPlaceRow {
    pub page: PageRef,
    /// The version of the page and which of its links it is, for mending it; none where it is not in the page's own text.
    pub version: Option<String>,
    pub link: Option<usize>,
    /// Whether a picture carries it, and no words.
    pub is_picture: bool,
    pub sentence: Sentence,
    /// Where it leads.
    pub to: Option<PageRef>,
    pub address: String,
    /// Whether it is changed in the tray already.
    pub is_planned: bool,
}

/// A link as the model knows it.
struct Found {
    page: PageRef,
    ordinal: Option<usize>,
    text: String,
    to: Option<PageRef>,
    address: String,
}

/// O(links of the site), in memory, and the texts of the pages of the window.
#[utoipa::path(operation_id = "anchors_places", params(Window), responses((status = 200, body = AnchorPlaces), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/sites/{site}/anchors/places")]
pub async fn places(
    state: web::Data<State>,
    path: web::Path<i32>,
    window: web::Query<Window>,
    asked: web::Json<AnchorKeys>,
) -> Result<web::Json<AnchorPlaces>, ApiError> {
    let live = state.site(*path).await?;
    let keys = asked.into_inner().keys;
    if keys.len() > MOST_TEXTS {
        return Err(ApiError::Unusable(format!("Ask for at most {MOST_TEXTS} anchor texts at once.")));
    }
    let (offset, limit) = window.stretch(MOST_PLACES);
    let look = {
        let live = std::sync::Arc::clone(&live);
        move || live.look(|model| found(model, &keys, offset, limit))
    };
    let (total, found) = state.aside(look).await?;
    let mut which: Vec<PageId> = found.iter().map(|found| PageId(found.page.number)).collect();
    which.dedup();
    let texts = page::texts(&state.pool, SiteId(*path), Some(&which)).await?;
    let tell = move || {
        let read = |text: page::PageText| {
            let source = text.source?;
            Some((text.page, Document::read(source.text, source.format)))
        };
        let documents: HashMap<PageId, Document> = texts.into_iter().filter_map(read).collect();
        live.look(|model| found.into_iter().map(|found| row(model, &documents, found)).collect())
    };
    Ok(web::Json(AnchorPlaces { total, places: state.aside(tell).await? }))
}

fn found(model: &Model, keys: &[String], offset: usize, limit: usize) -> (usize, Vec<Found>) {
    let (mut total, mut found) = (0, Vec::new());
    for place in model.anchors.places(keys).filter(|place| !place.is_repeated) {
        total += 1;
        if total <= offset || found.len() >= limit {
            continue;
        }
        let Ok(page) = PageRef::of(model, place.page.0) else { continue };
        let to = Address::parse(place.to.split('#').next().unwrap_or_default()).ok();
        let to = to.and_then(|to| model.site.page_at(&to)).and_then(|to| PageRef::of(model, to.0).ok());
        let (text, address) = (place.text.to_owned(), place.to.to_owned());
        found.push(Found { page, ordinal: place.ordinal, text, to, address });
    }
    (total, found)
}

fn row(model: &Model, documents: &HashMap<PageId, Document>, found: Found) -> AnchorPlaceRow {
    let page = PageId(found.page.number);
    let document = documents.get(&page).filter(|document| model.versions.get(&page) == Some(&document.hash()));
    let own = document.zip(found.ordinal);
    let link = own.and_then(|(document, ordinal)| document.links().get(ordinal));
    let sentence = own.zip(link).and_then(|((document, _), link)| document.quote_around(link.text));
    let planned = link.is_some_and(|link| {
        model.tray.on(page).any(|entry| entry.link.change.old().is_some() && entry.link.words == link.text)
    });
    AnchorPlaceRow {
        version: own.map(|(document, _)| document.hash().to_string()),
        link: own.map(|(_, ordinal)| ordinal),
        is_picture: link.is_some_and(|link| matches!(link.kind, LinkKind::Picture | LinkKind::Area)),
        sentence: match sentence {
            Some(sentence) if !sentence.anchor.is_empty() => sentence.into(),
            _ => Sentence { before: String::new(), anchor: found.text, after: String::new() },
        },
        to: found.to,
        address: found.address,
        is_planned: planned,
        page: found.page,
    }
}
