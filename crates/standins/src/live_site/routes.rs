//! What the live site answers to readers.

use actix_web::http::header::{ContentType, ETAG, IF_NONE_MATCH, LOCATION};
use actix_web::{HttpRequest, HttpResponse, web};

use super::orders::Order;
use super::state::State;
use super::{listing, publish, template};

/// The site's addresses.
pub fn configure(config: &mut web::ServiceConfig) {
    config
        .app_data(web::JsonConfig::default().limit(16 * 1024 * 1024))
        .route("/micropub", web::get().to(publish::query))
        .route("/micropub", web::post().to(publish::change))
        .route("/stand-in", web::post().to(order))
        .route("/sitemap.xml", web::get().to(sitemap))
        .route("/robots.txt", web::get().to(robots))
        .route("/media/{file}", web::get().to(media))
        .default_service(web::get().to(page));
}

async fn sitemap(state: web::Data<State>) -> HttpResponse {
    HttpResponse::Ok().content_type(ContentType::xml()).body(template::sitemap(&state.base, &state.shelf.all()))
}

async fn robots(state: web::Data<State>) -> HttpResponse {
    let text = format!("User-agent: *\nDisallow: /micropub\n\nSitemap: {}/sitemap.xml\n", state.base);
    HttpResponse::Ok().content_type(ContentType::plaintext()).body(text)
}

async fn media(state: web::Data<State>, file: web::Path<String>) -> HttpResponse {
    let is_name = file.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '-' | '.')) && !file.starts_with('.');
    let bytes = if is_name { std::fs::read(state.shelf.media().join(&*file)).ok() } else { None };
    match bytes {
        Some(bytes) => {
            let kind = mime_guess::from_path(&*file).first_or_octet_stream();
            HttpResponse::Ok().content_type(kind.essence_str().to_owned()).body(bytes)
        }
        None => HttpResponse::NotFound().content_type(ContentType::plaintext()).body("no such file"),
    }
}

async fn page(request: HttpRequest, state: web::Data<State>) -> HttpResponse {
    let path = request.path();
    let pages = state.shelf.all();
    if let Some(page) = pages.get(path) {
        if let Some(to) = &page.front.moved_to {
            return HttpResponse::MovedPermanently().insert_header((LOCATION, to.as_str())).finish();
        }
        return html(&request, template::page(&state.base, path, page, &pages));
    }
    if let Some(term) = listing::all_terms(&pages).into_iter().find(|term| term.path() == path) {
        return html(&request, template::archive(&state.base, &term, &pages));
    }
    let with_slash = format!("{path}/");
    if pages.contains_key(&with_slash) {
        return HttpResponse::MovedPermanently().insert_header((LOCATION, with_slash)).finish();
    }
    HttpResponse::NotFound().content_type(ContentType::html()).body(template::not_found(&state.base, path))
}

/// A page, or word that it is still the version that the reader has.
fn html(request: &HttpRequest, text: String) -> HttpResponse {
    let tag = format!("\"{}\"", &blake3::hash(text.as_bytes()).to_hex()[..24]);
    if request.headers().get(IF_NONE_MATCH).is_some_and(|known| known.as_bytes() == tag.as_bytes()) {
        return HttpResponse::NotModified().insert_header((ETAG, tag)).finish();
    }
    HttpResponse::Ok().content_type(ContentType::html()).insert_header((ETAG, tag)).body(text)
}

async fn order(request: HttpRequest, state: web::Data<State>, order: web::Json<Order>) -> HttpResponse {
    if !publish::is_authorised(&request, &state) {
        return HttpResponse::Unauthorized().finish();
    }
    match state.obey(order.into_inner()) {
        Ok(()) => HttpResponse::NoContent().finish(),
        Err(error) => HttpResponse::UnprocessableEntity().body(error.to_string()),
    }
}
