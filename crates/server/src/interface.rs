//! The browser's part, shipped inside the program.

use actix_web::http::header::{CACHE_CONTROL, ETAG, IF_NONE_MATCH};
use actix_web::{HttpRequest, HttpResponse, web};
use rust_embed::{EmbeddedFile, RustEmbed};

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[exclude = "*.map"]
struct Files;

pub fn configure(config: &mut web::ServiceConfig) {
    config.default_service(web::get().to(serve));
}

/// A file by its name, or the window for any address without an extension: views have addresses of their own.
async fn serve(request: HttpRequest) -> HttpResponse {
    let path = request.path().trim_start_matches('/');
    if path.starts_with("api/") {
        let message = "There is nothing at this address.".to_owned();
        return HttpResponse::NotFound().json(crate::api::Problem { message });
    }
    if let Some(file) = Files::get(path).filter(|_| !path.is_empty()) {
        return answer(&request, path, file, path.starts_with("assets/"));
    }
    match Files::get("index.html") {
        Some(window) if !path.rsplit('/').next().unwrap_or_default().contains('.') => {
            answer(&request, "index.html", window, false)
        }
        Some(_) => HttpResponse::NotFound().finish(),
        None => HttpResponse::ServiceUnavailable().body("The interface was not built: run `npm run build` in web."),
    }
}

fn answer(request: &HttpRequest, path: &str, file: EmbeddedFile, forever: bool) -> HttpResponse {
    let hash = file.metadata.sha256_hash();
    let tag = format!("\"{}\"", hash.iter().take(12).map(|byte| format!("{byte:02x}")).collect::<String>());
    // Names of built files hold their hash, so they never change.
    let cache = if forever { "public, max-age=31536000, immutable" } else { "no-cache" };
    if request.headers().get(IF_NONE_MATCH).is_some_and(|known| known.as_bytes() == tag.as_bytes()) {
        return HttpResponse::NotModified().insert_header((ETAG, tag)).finish();
    }
    HttpResponse::Ok()
        .content_type(mime_guess::from_path(path).first_or_octet_stream().to_string())
        .insert_header((CACHE_CONTROL, cache))
        .insert_header((ETAG, tag))
        .body(file.data.into_owned())
}
