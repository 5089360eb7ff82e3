//! Mentions of phrases, counted on all pages and told for a window of them.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use actix_web::{post, web};
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use serde::Serialize;
use strelm_core::document::Document;
use strelm_core::site::{Address, PageId};
use strelm_live::Model;
use strelm_live::mentions::{MentionsFound, PageMentions};
use strelm_store::{SiteId, page};
use utoipa::ToSchema;

use super::row::{MentionsOnPage, PageWithMentions};
use super::wish::MentionsWish;
use crate::api::pages::{Filter, Window};
use crate::api::{ApiError, Problem, State};

/// The largest window.
const MOST_PAGES: usize = 50;

/// Mentions of phrases on a site.
#[derive(Debug, Serialize, ToSchema)]
pub struct Mentions {
    /// Of each phrase in its order, whatever of it is told.
    pub phrases: Vec<PhraseCounted>,
    /// Pages with mentions that are told, and how many these are.
    pub pages: usize,
    pub mentions: usize,
    /// Texts that are on their way into memory: what stands on them is not counted yet.
    pub texts_to_come: Option<usize>,
    pub rows: Vec<PageWithMentions>,
}

/// How often a phrase stands on the pages that are asked for.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhraseCounted {
    pub text: String,
    pub mentions: usize,
    /// Those that carry a link.
    pub linked: usize,
    pub pages: usize,
}

/// Each phrase is counted on all pages that pass the filters; the rows are those of a window of pages. O(words of the pages
/// that may hold a phrase), in memory, and the texts of the window.
#[utoipa::path(operation_id = "mentions_list", params(Filter, Window), responses((status = 200, body = Mentions), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/sites/{site}/mentions")]
pub async fn list(
    state: web::Data<State>,
    path: web::Path<i32>,
    filter: web::Query<Filter>,
    window: web::Query<Window>,
    wish: web::Json<MentionsWish>,
) -> Result<web::Json<Mentions>, ApiError> {
    let live = state.site(*path).await?;
    let query = Arc::new(wish.query(filter.into_inner().wish()?)?);
    let only: Option<Vec<PageId>> = wish.pages().map(|pages| pages.iter().map(|page| PageId(*page)).collect());
    let (offset, limit) = window.stretch(MOST_PAGES);
    let (asked, are_all) = (Arc::clone(&query), only.is_some());
    let look = {
        let live = Arc::clone(&live);
        move || {
            live.look(|model: &Model| {
                let found = model.mentions(&asked);
                let pages = found.pages.iter().map(|(page, _)| *page);
                let pages: Vec<_> = match only {
                    Some(only) => pages.filter(|page| only.contains(page)).take(limit).collect(),
                    None => pages.skip(offset).take(limit).collect(),
                };
                let on_pages = model.mentions_on(&asked, &pages);
                (found, on_pages, model.texts_missing())
            })
        }
    };
    let (found, on_pages, texts_to_come) = state.aside(look).await?;
    let rows = rows(&state, SiteId(*path), &live, on_pages, are_all).await?;
    let MentionsFound { phrases, pages } = found;
    let counted = query.phrases.iter().zip(phrases).map(|(phrase, count)| PhraseCounted {
        text: phrase.as_str().to_owned(),
        mentions: count.mentions,
        linked: count.linked,
        pages: count.pages,
    });
    Ok(web::Json(Mentions {
        phrases: counted.collect(),
        mentions: pages.iter().map(|(_, told)| told).sum(),
        pages: pages.len(),
        texts_to_come,
        rows,
    }))
}

/// The rows of some pages, in their order. Two queries, O(bytes of the pages).
async fn rows(
    state: &State,
    site: SiteId,
    live: &Arc<strelm_live::LiveSite>,
    on_pages: Vec<PageMentions>,
    are_all: bool,
) -> Result<Vec<PageWithMentions>, ApiError> {
    let which: Vec<_> = on_pages.iter().map(|found| found.page).collect();
    let mut hrefs: BTreeMap<PageId, HashMap<String, Address>> = BTreeMap::new();
    for link in page::content_links(&state.pool, site, &which).await? {
        hrefs.entry(link.page).or_default().insert(link.href, link.to);
    }
    let texts = page::texts(&state.pool, site, Some(&which)).await?;
    let live = Arc::clone(live);
    let tell = move || {
        let read = |text: page::PageText| Some((text.page, text.source?));
        let sources: HashMap<_, _> = texts.into_iter().filter_map(read).collect();
        let documents: HashMap<PageId, Document> = on_pages
            .par_iter()
            .filter_map(|found| {
                // A page that has changed since is told with its next reading into memory.
                let source = sources.get(&found.page).filter(|source| Some(source.hash) == found.version)?;
                Some((found.page, Document::read(source.text.as_str(), source.format)))
            })
            .collect();
        let none = HashMap::new();
        live.look(|model| {
            let row = |found: &PageMentions| {
                let hrefs = hrefs.get(&found.page).unwrap_or(&none);
                MentionsOnPage { found, document: documents.get(&found.page), hrefs, are_all }.row(model)
            };
            // What is gone meanwhile is no row.
            on_pages.iter().filter_map(|found| row(found).ok()).collect()
        })
    };
    state.aside(tell).await
}
