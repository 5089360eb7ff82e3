//! A page in, the page with its links out: for whoever builds a site.

use actix_web::http::header::{CACHE_CONTROL, CONTENT_DISPOSITION, CONTENT_SECURITY_POLICY, CONTENT_TYPE};
use actix_web::{HttpRequest, HttpResponse, post, web};
use serde::Deserialize;
use strelm_core::document::encoding::{decode, label_in};
use strelm_core::document::{Document, Edit, EditError, Format};
use strelm_core::passing::{Passage, PassingEdit, PassingLink};
use strelm_core::site::{Address, PageId};
use strelm_live::rules::ReadOfPage;
use strelm_store::SiteId;
use utoipa::IntoParams;

use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

/// How many links came to the page.
const LINKS: &str = "strelm-links";

/// Which page it is.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    /// Where the page is on the site, such as `/guides/moon`.
    address: String,
}

/// Gives a page back with the links that rules make on it, with what is carried to it, and with the footer where that is on. The
/// page is HTML in whatever encoding it says, or Markdown (`text/markdown`); the header `strelm-links` tells how many links came.
/// O(bytes) for each link in Markdown, else O(bytes).
#[utoipa::path(operation_id = "edge_render", params(Query), request_body(content((String = "text/html"), (String = "text/markdown"))), responses(
    (status = 200, content((Vec<u8> = "text/html"), (Vec<u8> = "text/markdown"))),
    (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem),
))]
#[post("/sites/{site}/render")]
pub async fn render(
    state: web::Data<State>,
    request: HttpRequest,
    path: web::Path<i32>,
    query: web::Query<Query>,
    body: web::Bytes,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let media =
        request.headers().get(CONTENT_TYPE).and_then(|media| media.to_str().ok()).unwrap_or("text/html").to_owned();
    let format = match media.split(';').next().unwrap_or_default().trim() {
        "text/html" => Format::Html,
        "text/markdown" => Format::Markdown,
        _ => {
            return Err(ApiError::Unusable(
                "Send the page as HTML (Content-Type: text/html) or Markdown (text/markdown).".to_owned(),
            ));
        }
    };
    let asked = query.into_inner().address;
    let (address, page) = live.ask(move |model| located(model, &asked)).await??;
    let (site, pool) = (SiteId(*path), &state.pool);
    let read = match page {
        Some(page) => ReadOfPage::of(pool, site, page).await?,
        None => ReadOfPage::default(),
    };
    let form = strelm_store::site::get(pool, site).await?.and_then(|site| site.form_of_links());
    let (bytes, label) = (body.to_vec(), label_in(&media).map(str::to_owned));
    let (encoding, document) = state
        .aside(move || {
            let decoded = decode(bytes, label.as_deref());
            (decoded.encoding, Document::read(decoded.text, format))
        })
        .await?;
    let passing = read.page(pool, site, (page, address), document).await?;
    let asked = move |model: &Model| {
        let found = model.links_as_it_passes(&passing, form.as_ref(), None);
        let footer = model.footer(&passing.address, form.as_ref()).filter(|_| format == Format::Html);
        (passing, found.links, footer)
    };
    let (passing, links, footer) = live.ask(asked).await?;
    let count = links.len();
    let page = state.aside(move || with_links(&passing.document, links, footer.as_deref())).await?;
    let page = encoding.encode(&page.map_err(|error| ApiError::Internal(error.into()))?);
    // Whatever is in it, a browser shows none of it here.
    Ok(HttpResponse::Ok()
        .insert_header((CONTENT_TYPE, media))
        .insert_header((CONTENT_SECURITY_POLICY, "sandbox; default-src 'none'"))
        .insert_header((CONTENT_DISPOSITION, "attachment"))
        .insert_header((CACHE_CONTROL, "no-store"))
        .insert_header((LINKS, count.to_string()))
        .body(page))
}

/// The page at an address, which may be only a path.
fn located(model: &Model, asked: &str) -> Result<(Address, Option<PageId>), ApiError> {
    let no_address =
        || ApiError::Unusable(format!("“{asked}” is not an address of this site: it should look like /guides/moon."));
    let url = model.site.entry().as_url().join(asked.trim()).map_err(|_| no_address())?;
    let address = Address::parse(url.as_str()).map_err(|_| no_address())?;
    if !model.site.is_own(&address) {
        return Err(no_address());
    }
    let page = model.site.page_at(&address);
    Ok((address, page))
}

/// The page with its links, and its footer before its body ends.
fn with_links(document: &Document, links: Vec<PassingLink>, footer: Option<&str>) -> Result<String, EditError> {
    let edit = Edit::compose(document.hash(), links.into_iter().map(|link| link.edit))?;
    let page = edit.apply(document.source())?;
    let Some(footer) = footer else { return Ok(page) };
    let passed = Passage::over(&PassingEdit::default().with_end(footer), page.as_bytes());
    Ok(String::from_utf8(passed).unwrap_or(page))
}
