//! Trying an editing interface.

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_sources::editing::SourceError;
use strelm_sources::micropub::Micropub;
use url::{Host, Url};
use utoipa::ToSchema;

use super::looked::{Field, FieldProblem, problem};
use crate::api::State;
use strelm_work::words::sentence;

/// An editing interface to try.
#[derive(Debug, Deserialize, ToSchema)]
pub struct InterfaceWish {
    micropub: String,
    token: String,
}

/// What came of trying an editing interface.
#[derive(Debug, Serialize, ToSchema)]
pub struct Tried {
    /// What is wrong; nothing where it takes the token.
    pub problem: Option<FieldProblem>,
}

/// Sends the token to the interface, so that somebody must have pressed for it.
#[utoipa::path(operation_id = "sites_try_interface", responses((status = 200, body = Tried)))]
#[post("/sites/try-interface")]
pub async fn try_interface(state: web::Data<State>, wish: web::Json<InterfaceWish>) -> web::Json<Tried> {
    let tried = match checked_endpoint(wish.micropub.trim()) {
        Ok(endpoint) => check_interface(&state, &endpoint, Some(&wish.token)).await,
        Err(problem) => Err(problem),
    };
    web::Json(Tried { problem: tried.err() })
}

/// The address of an editing interface to which a token may be sent: over HTTPS, or within this machine.
pub fn checked_endpoint(endpoint: &str) -> Result<Url, FieldProblem> {
    let wrong = |message: &str| problem(Field::Micropub, message);
    let url = Url::parse(endpoint).ok().filter(|url| matches!(url.scheme(), "http" | "https"));
    let url =
        url.ok_or_else(|| wrong("This is not a web address: it should look like https://www.example.org/micropub."))?;
    let is_here = match url.host() {
        Some(Host::Ipv4(address)) => address.is_loopback(),
        Some(Host::Ipv6(address)) => address.is_loopback(),
        Some(Host::Domain(name)) => name == "localhost",
        None => false,
    };
    if url.scheme() == "http" && !is_here {
        return Err(wrong("A token is sent over HTTPS only: the address must begin with https://."));
    }
    if !url.username().is_empty() || url.password().is_some() {
        return Err(wrong("Leave name and password out of the address; the token stands for them."));
    }
    Ok(url)
}

/// Whether an editing interface answers and takes the token, which is sent to it: to be called when somebody pressed for
/// it, not while an address is typed.
pub async fn check_interface(state: &State, url: &Url, token: Option<&str>) -> Result<(), FieldProblem> {
    let wrong = |message: String| problem(Field::Micropub, message);
    let token = token.map(str::trim).filter(|token| !token.is_empty());
    let token = token.ok_or_else(|| {
        problem(Field::Token, "The editing interface needs a token. Whoever runs the site can give you one.")
    })?;
    if token.contains(char::is_whitespace) || !token.is_ascii() {
        return Err(problem(Field::Token, "A token has no spaces and no accented letters. Was it copied as a whole?"));
    }
    let micropub = Micropub::new(state.client.clone(), url.clone(), token.to_owned());
    micropub.check().await.map_err(|error| match error {
        SourceError::Unauthorised => problem(Field::Token, "The editing interface refuses this token."),
        SourceError::Unreachable(why) => wrong(format!("The editing interface does not answer ({why}).")),
        SourceError::NotEditable | SourceError::Unintelligible(_) => {
            wrong("There is something at this address, but it does not speak Micropub.".to_owned())
        }
        other => wrong(sentence(&other.to_string())),
    })
}
