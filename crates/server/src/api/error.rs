//! Refusals, as one shape with words for the person at the screen.

use actix_web::error::{InternalError, JsonPayloadError, PathError, QueryPayloadError};
use actix_web::http::StatusCode;
use actix_web::{HttpRequest, HttpResponse, ResponseError};
use serde::Serialize;
use strelm_store::StoreError;
use thiserror::Error;
use utoipa::ToSchema;

use strelm_live::LiveError;
use strelm_work::OrderError;

/// What went wrong, and what to do about it.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    pub message: String,
}

/// Why a request is not answered as it wishes.
#[derive(Debug, Error)]
pub enum ApiError {
    #[error("{0}")]
    NotFound(&'static str),
    #[error("{0}")]
    Conflict(String),
    #[error("{0}")]
    Unusable(String),
    /// It can be had a little later.
    #[error("{0}")]
    NotReady(String),
    #[error("Something went wrong on the server. Try again in a moment; what was done already is not done twice.")]
    Internal(#[source] anyhow::Error),
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::NotFound(_) => StatusCode::NOT_FOUND,
            Self::Conflict(_) => StatusCode::CONFLICT,
            Self::Unusable(_) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::NotReady(_) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Internal(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }

    fn error_response(&self) -> HttpResponse {
        if let Self::Internal(error) = self {
            tracing::error!(error = format!("{error:#}"), "a request failed");
        }
        HttpResponse::build(self.status_code()).json(Problem { message: self.to_string() })
    }
}

impl From<anyhow::Error> for ApiError {
    fn from(error: anyhow::Error) -> Self {
        Self::Internal(error)
    }
}

impl From<StoreError> for ApiError {
    fn from(error: StoreError) -> Self {
        match error.is_about_a_null() {
            true => Self::Unusable("A text holds a sign that cannot be kept, a null. Take it out.".to_owned()),
            false => Self::Internal(error.into()),
        }
    }
}

impl From<LiveError> for ApiError {
    fn from(error: LiveError) -> Self {
        match error {
            LiveError::NoSite => Self::NotFound("There is no such site. Choose one in the bar at the top."),
            other => Self::Internal(other.into()),
        }
    }
}

impl From<OrderError> for ApiError {
    fn from(error: OrderError) -> Self {
        match error {
            OrderError::UnderWay => Self::Conflict("That is under way already. Wait until it is done.".to_owned()),
            OrderError::Nothing => Self::Conflict("There is nothing to do: somebody may have been faster.".to_owned()),
            other => Self::Internal(other.into()),
        }
    }
}

/// A body that is too large or is not what was expected, as a [`Problem`].
pub fn unreadable_body(error: JsonPayloadError, _: &HttpRequest) -> actix_web::Error {
    match error {
        JsonPayloadError::Overflow { .. } | JsonPayloadError::OverflowKnownLength { .. } => {
            refuse(StatusCode::PAYLOAD_TOO_LARGE, "The request is larger than Strelm takes.")
        }
        JsonPayloadError::Deserialize(error) if error.is_eof() => {
            refuse(StatusCode::BAD_REQUEST, "The request cannot be understood: its JSON ends too early.")
        }
        JsonPayloadError::Deserialize(error) => not_understood(&error),
        JsonPayloadError::ContentType => {
            refuse(StatusCode::BAD_REQUEST, "The request cannot be understood: it does not say that it is JSON.")
        }
        other => not_understood(&other),
    }
}

/// A query that is not what was expected, as a [`Problem`].
pub fn unreadable_query(error: QueryPayloadError, _: &HttpRequest) -> actix_web::Error {
    match error {
        QueryPayloadError::Deserialize(error) => not_understood(&error),
        other => not_understood(&other),
    }
}

fn not_understood(error: &dyn std::error::Error) -> actix_web::Error {
    refuse(StatusCode::BAD_REQUEST, &format!("The request cannot be understood: {error}."))
}

/// A path that is not what was expected, as a [`Problem`].
pub fn unreadable_path(_: PathError, _: &HttpRequest) -> actix_web::Error {
    refuse(StatusCode::NOT_FOUND, "There is nothing at this address.")
}

fn refuse(status: StatusCode, message: &str) -> actix_web::Error {
    let answer = HttpResponse::build(status).json(Problem { message: message.to_owned() });
    InternalError::from_response(message.to_owned(), answer).into()
}
