//! The editing interface: Micropub, a W3C Recommendation (<https://www.w3.org/TR/micropub/>).
//!
//! Used are `q=source` and `action=update` with `replace`. Micropub itself knows no versions, so the
//! source is read and compared before each change; a server that sends an `ETag` also gets it back in `If-Match`.

use reqwest::StatusCode;
use reqwest::header::{ACCEPT, ETAG, IF_MATCH};
use serde::Deserialize;
use serde_json::{Value, json};
use strelm_core::site::Address;
use thiserror::Error;
use url::Url;

use crate::fetch::{plain, read};

/// An answer larger than this is given up.
const MOST_BYTES: usize = 16 * 1024 * 1024;

#[derive(Clone)]
pub struct Micropub {
    client: reqwest::Client,
    endpoint: Url,
    token: String,
}

/// A page's content as its author wrote it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PageSource {
    /// An HTML fragment.
    pub html: String,
    pub version: Option<String>,
}

#[derive(Debug, Error)]
pub enum MicropubError {
    #[error("the editing interface cannot be reached: {0}")]
    Unreachable(String),
    #[error("the editing interface refuses the token: give Strelm a new one in the site's configuration")]
    Unauthorised,
    #[error("the editing interface does not let this page be edited")]
    NotEditable,
    #[error("the page was changed on the site in this very moment")]
    ChangedMeanwhile,
    #[error("the editing interface answers with status {status}: {description}")]
    Refused { status: StatusCode, description: String },
    #[error("the editing interface gives an answer that Micropub does not know: {0}")]
    Unintelligible(String),
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
    pub fn new(client: reqwest::Client, endpoint: Url, token: String) -> Self {
        Self { client, endpoint, token }
    }

    /// The source of a page's content; [`MicropubError::NotEditable`] when the interface has none.
    ///
    /// # Errors
    /// [`MicropubError`].
    pub async fn source(&self, page: &Address) -> Result<PageSource, MicropubError> {
        let query = [("q", "source"), ("properties[]", "content"), ("url", page.as_str())];
        let answer = self.send(self.client.get(self.endpoint.clone()).query(&query)).await?;
        let version = answer.headers().get(ETAG).and_then(|tag| tag.to_str().ok()).map(str::to_owned);
        let body = read(answer, MOST_BYTES).await.map_err(|error| MicropubError::Unintelligible(error.to_string()))?;
        let source: Source =
            serde_json::from_slice(&body).map_err(|error| MicropubError::Unintelligible(error.to_string()))?;
        let html = source.properties.content.into_iter().find_map(|content| match content {
            Value::Object(mut fields) => fields.remove("html").and_then(|html| html.as_str().map(str::to_owned)),
            // Plain text is no HTML source: a link cannot be put into it.
            _ => None,
        });
        html.map(|html| PageSource { html, version }).ok_or(MicropubError::NotEditable)
    }

    /// Replaces a page's content. `version` is what [`Micropub::source`] gave for the content that is replaced.
    ///
    /// # Errors
    /// [`MicropubError`]; the page is then as it was, unless the answer was lost on its way.
    pub async fn replace_content(
        &self,
        page: &Address,
        html: &str,
        version: Option<&str>,
    ) -> Result<(), MicropubError> {
        let body = json!({"action": "update", "url": page.as_str(), "replace": {"content": [{"html": html}]}});
        let mut request = self.client.post(self.endpoint.clone()).json(&body);
        if let Some(version) = version {
            request = request.header(IF_MATCH, version);
        }
        self.send(request).await.map(|_| ())
    }

    async fn send(&self, request: reqwest::RequestBuilder) -> Result<reqwest::Response, MicropubError> {
        let request = request.bearer_auth(&self.token).header(ACCEPT, "application/json");
        let answer = request.send().await.map_err(|error| MicropubError::Unreachable(plain(&error)))?;
        let status = answer.status();
        match status {
            _ if status.is_success() => Ok(answer),
            StatusCode::UNAUTHORIZED | StatusCode::FORBIDDEN => Err(MicropubError::Unauthorised),
            StatusCode::PRECONDITION_FAILED => Err(MicropubError::ChangedMeanwhile),
            _ => {
                let body = read(answer, MOST_BYTES).await.unwrap_or_default();
                let refusal: Refusal = serde_json::from_slice(&body).unwrap_or_default();
                let is_no_page = status == StatusCode::NOT_FOUND || refusal.error == "invalid_request";
                if status.is_client_error() && is_no_page {
                    return Err(MicropubError::NotEditable);
                }
                let description = match (refusal.error_description.as_str(), refusal.error.as_str()) {
                    ("", "") => "without a reason".to_owned(),
                    ("", error) => error.to_owned(),
                    (description, _) => description.to_owned(),
                };
                Err(MicropubError::Refused { status, description })
            }
        }
    }
}
