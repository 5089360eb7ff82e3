//! Micropub: `q=config`, `q=source` and `action=update` with `replace` of the content.

use actix_web::http::StatusCode;
use actix_web::http::header::{AUTHORIZATION, ETAG, IF_MATCH};
use actix_web::{HttpRequest, HttpResponse, web};
use serde::Deserialize;
use serde_json::{Value, json};
use url::Url;

use super::shelf::ShelfError;
use super::state::State;

/// What an editing client asks.
#[derive(Deserialize)]
pub struct Query {
    q: Option<String>,
    url: Option<String>,
}

/// What an editing client wants changed.
#[derive(Deserialize)]
pub struct Change {
    action: Option<String>,
    url: Option<String>,
    #[serde(default)]
    replace: serde_json::Map<String, Value>,
}

/// Answers what an editing client asks: its configuration, or the source of a page.
pub async fn query(request: HttpRequest, state: web::Data<State>, query: web::Query<Query>) -> HttpResponse {
    if !is_authorised(&request, &state) {
        return refuse(StatusCode::UNAUTHORIZED, "unauthorized", "A valid bearer token is needed.");
    }
    match query.q.as_deref() {
        Some("config") => HttpResponse::Ok().json(json!({"q": ["config", "source"]})),
        Some("source") => {
            let path = query.url.as_deref().and_then(|url| path_on_site(&state, url));
            let Some(page) = path.and_then(|path| state.shelf.page(&path)) else {
                return refuse(StatusCode::BAD_REQUEST, "invalid_request", "There is no page with a source there.");
            };
            HttpResponse::Ok()
                .insert_header((ETAG, page.etag()))
                .json(json!({"properties": {"content": [{"html": page.content}]}}))
        }
        _ => refuse(StatusCode::BAD_REQUEST, "invalid_request", "Known queries are config and source."),
    }
}

/// Changes, adds or takes off a page, for those with the token.
pub async fn change(request: HttpRequest, state: web::Data<State>, change: web::Json<Change>) -> HttpResponse {
    if !is_authorised(&request, &state) {
        return refuse(StatusCode::UNAUTHORIZED, "unauthorized", "A valid bearer token is needed.");
    }
    if change.action.as_deref() != Some("update") {
        return refuse(StatusCode::BAD_REQUEST, "invalid_request", "The only known action is update.");
    }
    let Some(path) = change.url.as_deref().and_then(|url| path_on_site(&state, url)) else {
        return refuse(StatusCode::BAD_REQUEST, "invalid_request", "The address is not of this site.");
    };
    let content = change.replace.get("content").and_then(|values| values.get(0)).and_then(|value| value.get("html"));
    let Some(html) = content.and_then(Value::as_str) else {
        return refuse(StatusCode::BAD_REQUEST, "invalid_request", "Only the HTML content can be replaced.");
    };
    let version = request.headers().get(IF_MATCH).and_then(|version| version.to_str().ok());
    match state.shelf.replace(&path, html, version) {
        Ok(()) => HttpResponse::NoContent().finish(),
        Err(ShelfError::OtherVersion) => {
            refuse(StatusCode::PRECONDITION_FAILED, "precondition_failed", "The page was changed meanwhile.")
        }
        Err(ShelfError::NoPage(_)) => {
            refuse(StatusCode::BAD_REQUEST, "invalid_request", "There is no page with a source there.")
        }
        Err(error) => refuse(StatusCode::INTERNAL_SERVER_ERROR, "server_error", &error.to_string()),
    }
}

/// Whether a request carries the token.
pub fn is_authorised(request: &HttpRequest, state: &State) -> bool {
    let given = request.headers().get(AUTHORIZATION).and_then(|value| value.to_str().ok());
    given.and_then(|value| value.strip_prefix("Bearer ")) == Some(state.token.as_str())
}

fn path_on_site(state: &State, url: &str) -> Option<String> {
    let base = Url::parse(&state.base).ok()?;
    let url = base.join(url).ok()?;
    (url.origin() == base.origin()).then(|| url.path().to_owned())
}

fn refuse(status: StatusCode, error: &str, description: &str) -> HttpResponse {
    HttpResponse::build(status).json(json!({"error": error, "error_description": description}))
}
