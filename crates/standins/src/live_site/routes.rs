//! What the live site answers to readers.

use actix_web::http::header::{ContentType, LOCATION};
use actix_web::{HttpRequest, HttpResponse, web};

use super::shelf::Shelf;
use super::{listing, publish, template};

pub struct State {
    pub shelf: Shelf,
    /// Scheme, host and port, without a slash at the end.
    pub base: String,
    pub token: String,
}

pub fn configure(config: &mut web::ServiceConfig) {
    config
        .app_data(web::JsonConfig::default().limit(16 * 1024 * 1024))
        .route("/micropub", web::get().to(publish::query))
        .route("/micropub", web::post().to(publish::change))
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
        return html(HttpResponse::Ok(), template::page(&state.base, path, page, &pages));
    }
    if let Some(term) = listing::all_terms(&pages).into_iter().find(|term| term.path() == path) {
        return html(HttpResponse::Ok(), template::archive(&state.base, &term, &pages));
    }
    let with_slash = format!("{path}/");
    if pages.contains_key(&with_slash) {
        return HttpResponse::MovedPermanently().insert_header((LOCATION, with_slash)).finish();
    }
    html(HttpResponse::NotFound(), template::not_found(&state.base, path))
}

fn html(mut response: actix_web::HttpResponseBuilder, text: String) -> HttpResponse {
    response.content_type(ContentType::html()).body(text)
}
