//! Links that say an anchor text, or lead to a host or an address, each in its sentence.

use std::collections::{HashMap, HashSet};

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::anchors::AnchorPlace;
use strelm_core::destinations::away;
use strelm_core::document::{Document, LinkKind, LinkMarks};
use strelm_core::site::{Address, PageId};
use strelm_live::Model;
use strelm_store::SiteId;
use strelm_store::page;
use utoipa::ToSchema;

use crate::api::pages::{PageRef, Sentence, Window};
use crate::api::{ApiError, Problem, State};

/// The largest window.
const MOST_PLACES: usize = 200;

/// Texts, hosts or addresses that are asked for at once.
const MOST_ASKED: usize = 500;

/// Which links: those that say one of some texts, or lead to one of some hosts or addresses.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum AskedLinks {
    /// By their keys, as the list of anchor texts has them.
    Texts {
        keys: Vec<String>,
    },
    /// As the list of destinations has them.
    Hosts {
        hosts: Vec<String>,
    },
    Addresses {
        addresses: Vec<String>,
    },
}

/// Links in the content of pages.
#[derive(Debug, Serialize, ToSchema)]
pub struct AnchorPlaces {
    pub total: usize,
    /// Pages whose texts are on their way into memory: their links are not told yet.
    pub texts_to_come: Option<usize>,
    pub places: Vec<AnchorPlaceRow>,
}

/// A link in its sentence.
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
    /// How it is to be followed.
    pub says: LinkMarksShown,
    /// Whether it is changed in the tray already.
    pub is_planned: bool,
}

/// How a link is to be followed.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct LinkMarksShown {
    pub nofollow: bool,
    pub sponsored: bool,
    pub ugc: bool,
    pub new_tab: bool,
}

impl LinkMarksShown {
    const fn of(marks: LinkMarks) -> Self {
        Self {
            nofollow: marks.has(LinkMarks::NOFOLLOW),
            sponsored: marks.has(LinkMarks::SPONSORED),
            ugc: marks.has(LinkMarks::USER_CONTENT),
            new_tab: marks.has(LinkMarks::NEW_TAB),
        }
    }
}

/// A link as the model knows it.
struct Found {
    page: PageRef,
    ordinal: Option<usize>,
    text: String,
    to: Option<PageRef>,
    address: String,
    says: LinkMarksShown,
}

/// O(links of the site), in memory, and the texts of the pages of the window.
#[utoipa::path(operation_id = "anchors_places", params(Window), responses((status = 200, body = AnchorPlaces), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/sites/{site}/anchors/places")]
pub async fn places(
    state: web::Data<State>,
    path: web::Path<i32>,
    window: web::Query<Window>,
    asked: web::Json<AskedLinks>,
) -> Result<web::Json<AnchorPlaces>, ApiError> {
    let live = state.site(*path).await?;
    let asked = asked.into_inner();
    let (AskedLinks::Texts { keys: names }
    | AskedLinks::Hosts { hosts: names }
    | AskedLinks::Addresses { addresses: names }) = &asked;
    if names.len() > MOST_ASKED {
        return Err(ApiError::Unusable(format!("Ask for at most {MOST_ASKED} texts, hosts or addresses at once.")));
    }
    let (offset, limit) = window.stretch(MOST_PLACES);
    let look = {
        let live = std::sync::Arc::clone(&live);
        move || live.look(|model| (found(model, &asked, offset, limit), model.texts_missing()))
    };
    let ((total, found), texts_to_come) = state.aside(look).await?;
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
    Ok(web::Json(AnchorPlaces { total, texts_to_come, places: state.aside(tell).await? }))
}

fn found(model: &Model, asked: &AskedLinks, offset: usize, limit: usize) -> (usize, Vec<Found>) {
    let entry = model.site.entry();
    match asked {
        AskedLinks::Texts { keys } => shown(model, model.anchors.places(keys), offset, limit),
        AskedLinks::Hosts { hosts } => {
            let hosts: HashSet<&str> = hosts.iter().map(String::as_str).collect();
            let leads = |to: &str| away(entry, to).is_some_and(|host| hosts.contains(host));
            shown(model, model.anchors.leading(leads), offset, limit)
        }
        AskedLinks::Addresses { addresses } => {
            let addresses: HashSet<&str> = addresses.iter().map(String::as_str).collect();
            shown(model, model.anchors.leading(|to| addresses.contains(to)), offset, limit)
        }
    }
}

fn shown<'m>(
    model: &Model,
    links: impl Iterator<Item = AnchorPlace<'m>>,
    offset: usize,
    limit: usize,
) -> (usize, Vec<Found>) {
    let (mut total, mut found) = (0, Vec::new());
    for place in links.filter(|place| !place.is_repeated) {
        total += 1;
        if total <= offset || found.len() >= limit {
            continue;
        }
        let Ok(page) = PageRef::of(model, place.page.0) else { continue };
        let to = Address::parse(place.to.split('#').next().unwrap_or_default()).ok();
        let to = to.and_then(|to| model.site.page_at(&to)).and_then(|to| PageRef::of(model, to.0).ok());
        let (text, address) = (place.text.to_owned(), place.to.to_owned());
        let says = LinkMarksShown::of(place.marks);
        found.push(Found { page, ordinal: place.ordinal, text, to, address, says });
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
        says: found.says,
        is_planned: planned,
        page: found.page,
    }
}
