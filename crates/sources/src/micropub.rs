//! The editing interface: Micropub, a W3C Recommendation (<https://www.w3.org/TR/micropub/>).
//!
//! Used are `q=source` and `action=update` with `replace`. Micropub itself knows no versions, so the
//! source is read and compared before each change; a server that sends an `ETag` also gets it back in `If-Match`.

use reqwest::header::{ACCEPT, ETAG, IF_MATCH};
use reqwest::{Method, StatusCode};
use serde::Deserialize;
use serde_json::{Value, json};
use strelm_core::document::Format;
use strelm_core::site::Address;
use url::Url;

use crate::client::Client;
use crate::fetch::{plain, read};
use crate::page_source::{PageSource, SourceError};

/// An answer larger than this is given up.
const MOST_BYTES: usize = 16 * 1024 * 1024;

/// A site's editing interface.
#[derive(Clone)]
pub struct Micropub {
    client: Client,
    endpoint: Url,
    token: String,
}

#[derive(Deserialize)]
struct Source {
    #[serde(default)]
    properties: Properties,
}

#[derive(Deserialize, Default)]
struct Properties {
    #[serde(default)]
    content: Vec<Value>,
}

#[derive(Deserialize, Default)]
struct Refusal {
    #[serde(default)]
    error: String,
    #[serde(default)]
    error_description: String,
}

impl Micropub {
    /// The interface at an endpoint, spoken to with a token.
    pub fn new(client: Client, endpoint: Url, token: String) -> Self {
        Self { client, endpoint, token }
    }

    /// The source of a page's content; [`SourceError::NotEditable`] when the interface has none.
    ///
    /// # Errors
    /// [`SourceError`].
    pub async fn source(&self, page: &Address) -> Result<PageSource, SourceError> {
        let query = [("q", "source"), ("properties[]", "content"), ("url", page.as_str())];
        let answer = self.send(self.client.get(&self.endpoint)?.query(&query)).await?;
        let version = answer.headers().get(ETAG).and_then(|tag| tag.to_str().ok()).map(str::to_owned);
        let body = read(answer, MOST_BYTES).await.map_err(|error| SourceError::Unintelligible(error.to_string()))?;
        let source: Source =
            serde_json::from_slice(&body).map_err(|error| SourceError::Unintelligible(error.to_string()))?;
        let html = source.properties.content.into_iter().find_map(|content| match content {
            Value::Object(mut fields) => fields.remove("html").and_then(|html| html.as_str().map(str::to_owned)),
            // Plain text is no HTML source: a link cannot be put into it.
            _ => None,
        });
        html.map(|text| PageSource { text, format: Format::Html, version }).ok_or(SourceError::NotEditable)
    }

    /// Replaces a page's content. `version` is what [`Micropub::source`] gave for the content that is replaced.
    ///
    /// # Errors
    /// [`SourceError`]; the page is then as it was, unless the answer was lost on its way.
    pub async fn replace_content(&self, page: &Address, html: &str, version: Option<&str>) -> Result<(), SourceError> {
        let body = json!({"action": "update", "url": page.as_str(), "replace": {"content": [{"html": html}]}});
        let mut request = self.client.request(Method::POST, &self.endpoint)?.json(&body);
        if let Some(version) = version {
            request = request.header(IF_MATCH, version);
        }
        self.send(request).await.map(|_| ())
    }

    /// Whether the interface answers and takes the token.
    ///
    /// # Errors
    /// [`SourceError`] says what is wrong with the address or the token.
    pub async fn check(&self) -> Result<(), SourceError> {
        let answer = self.send(self.client.get(&self.endpoint)?.query(&[("q", "config")])).await?;
        let body = read(answer, MOST_BYTES).await.map_err(|error| SourceError::Unintelligible(error.to_string()))?;
        serde_json::from_slice::<serde_json::Map<String, Value>>(&body)
            .map(|_| ())
            .map_err(|error| SourceError::Unintelligible(error.to_string()))
    }

    async fn send(&self, request: reqwest::RequestBuilder) -> Result<reqwest::Response, SourceError> {
        let request = request.bearer_auth(&self.token).header(ACCEPT, "application/json");
        let answer = request.send().await.map_err(|error| SourceError::Unreachable(plain(&error)))?;
        let status = answer.status();
        match status {
            _ if status.is_success() => Ok(answer),
            StatusCode::TOO_MANY_REQUESTS => {
                let wait = crate::fetch::retry_after(answer.headers());
                Err(SourceError::Busy { status, wait })
            }
            _ if status.is_server_error() => {
                Err(SourceError::Busy { status, wait: crate::fetch::retry_after(answer.headers()) })
            }
            StatusCode::UNAUTHORIZED | StatusCode::FORBIDDEN => Err(SourceError::Unauthorised),
            StatusCode::PRECONDITION_FAILED => Err(SourceError::ChangedMeanwhile),
            _ => {
                let body = read(answer, MOST_BYTES).await.unwrap_or_default();
                let refusal: Refusal = serde_json::from_slice(&body).unwrap_or_default();
                let is_no_page = status == StatusCode::NOT_FOUND || refusal.error == "invalid_request";
                if status.is_client_error() && is_no_page {
                    return Err(SourceError::NotEditable);
                }
                let description = match (refusal.error_description.as_str(), refusal.error.as_str()) {
                    ("", "") => "without a reason".to_owned(),
                    ("", error) => error.to_owned(),
                    (description, _) => description.to_owned(),
                };
                Err(SourceError::Refused { status, description })
            }
        }
    }
}
