//! The browser's part, shipped inside the program.

use actix_web::http::header::{ACCEPT_ENCODING, CACHE_CONTROL, CONTENT_ENCODING, ETAG, IF_NONE_MATCH, VARY};
use actix_web::{HttpRequest, HttpResponse, web};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[exclude = "*.map"]
struct Files;

/// The files of the interface, and its one page for all other paths.
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
    let is_there = !path.is_empty() && !path.ends_with(PACKED) && Files::get(path).is_some();
    if is_there {
        return answer(&request, path, path.starts_with("assets/"));
    }
    match Files::get("index.html") {
        Some(_) if !path.rsplit('/').next().unwrap_or_default().contains('.') => answer(&request, "index.html", false),
        Some(_) => HttpResponse::NotFound().finish(),
        None => HttpResponse::ServiceUnavailable().body("The interface was not built: run `npm run build` in web."),
    }
}

/// The ending of a file that is packed with brotli, beside the file itself.
const PACKED: &str = ".br";

fn takes_packed(request: &HttpRequest) -> bool {
    let accepted = request.headers().get(ACCEPT_ENCODING).and_then(|accepted| accepted.to_str().ok());
    let mut codings = accepted.unwrap_or_default().split(',').map(str::trim);
    // A coding that is refused says so with a weight of nothing.
    codings.any(|coding| {
        let (name, weight) = coding.split_once(';').unwrap_or((coding, ""));
        name.trim() == "br" && !matches!(weight.trim().strip_prefix("q="), Some("0" | "0.0" | "0.00" | "0.000"))
    })
}

fn answer(request: &HttpRequest, path: &str, forever: bool) -> HttpResponse {
    let packed = takes_packed(request).then(|| Files::get(&format!("{path}{PACKED}"))).flatten();
    let is_packed = packed.is_some();
    let Some(file) = packed.or_else(|| Files::get(path)) else { return HttpResponse::NotFound().finish() };
    let hash = file.metadata.sha256_hash();
    let tag = format!("\"{}\"", hash.iter().take(12).map(|byte| format!("{byte:02x}")).collect::<String>());
    // Names of built files hold their hash, so they never change.
    let cache = if forever { "public, max-age=31536000, immutable" } else { "no-cache" };
    if request.headers().get(IF_NONE_MATCH).is_some_and(|known| known.as_bytes() == tag.as_bytes()) {
        return HttpResponse::NotModified().insert_header((ETAG, tag)).finish();
    }
    let mut response = HttpResponse::Ok();
    if is_packed {
        response.insert_header((CONTENT_ENCODING, "br"));
    }
    response
        .insert_header((VARY, "accept-encoding"))
        .content_type(mime_guess::from_path(path).first_or_octet_stream().to_string())
        .insert_header((CACHE_CONTROL, cache))
        .insert_header((ETAG, tag))
        .body(file.data.into_owned())
}
