//! Files that a browser saves.

use actix_web::HttpResponse;
use actix_web::http::header::{CACHE_CONTROL, CONTENT_DISPOSITION};

/// An answer that is saved under a name, which is made of plain letters.
pub fn attachment(kind: &str, name: &str, bytes: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok()
        .content_type(kind)
        .insert_header((CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")))
        .insert_header((CACHE_CONTROL, "no-store"))
        .body(bytes)
}
