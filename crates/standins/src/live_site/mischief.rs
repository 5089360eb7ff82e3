//! Misbehaving on command: slow answers, errors, dropped connections, half an answer, lost answers.

use std::future::ready;
use std::net::{Shutdown, TcpStream};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use actix_web::body::{BodySize, BoxBody, MessageBody, SizedStream};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::RETRY_AFTER;
use actix_web::http::{Method, StatusCode};
use actix_web::middleware::Next;
use actix_web::web::Bytes;
use actix_web::{Error, HttpResponse, web};
use futures::{StreamExt, stream};
use serde::Deserialize;

use super::routes::State;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Trouble {
    Slow {
        milliseconds: u64,
    },
    Status {
        status: u16,
        /// Seconds that the site asks to wait.
        retry_after: Option<u64>,
    },
    /// Nothing is done, and the connection ends without an answer.
    Drop,
    /// What was asked for is done, and the connection ends without an answer.
    LoseAnswer,
    /// The connection ends in the middle of the answer.
    Half,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum On {
    /// Requests of readers.
    Pages,
    /// Looking up sources through Micropub.
    Sources,
    /// Changes through Micropub.
    Changes,
}

/// What goes wrong, where, and how often.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct Mischief {
    pub trouble: Trouble,
    pub on: On,
    /// Only for pages whose path begins like this.
    #[serde(default)]
    pub path: String,
    pub times: u32,
}

/// Mischief that is still to come, the first given first.
#[derive(Debug, Default)]
pub struct Plans(Mutex<Vec<Mischief>>);

impl Plans {
    pub fn add(&self, mischief: Mischief) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).push(mischief);
    }

    pub fn clear(&self) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }

    fn next(&self, on: On, path: &str) -> Option<Trouble> {
        let mut plans = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let at = plans.iter().position(|plan| plan.on == on && path.starts_with(&plan.path) && plan.times > 0)?;
        let plan = plans.get_mut(at)?;
        plan.times -= 1;
        let trouble = plan.trouble;
        plans.retain(|plan| plan.times > 0);
        Some(trouble)
    }
}

/// A second hold on a connection, by which it can be ended.
pub struct Connection(TcpStream);

impl Connection {
    /// To be called when a connection is made.
    pub fn hold(connection: &dyn std::any::Any, kept: &mut actix_web::dev::Extensions) {
        use std::os::fd::AsFd;
        let stream = connection.downcast_ref::<actix_web::rt::net::TcpStream>();
        if let Some(held) = stream.and_then(|stream| stream.as_fd().try_clone_to_owned().ok()) {
            kept.insert(Arc::new(Self(TcpStream::from(held))));
        }
    }

    fn end(&self) {
        // One that is over already is no error.
        let _ = self.0.shutdown(Shutdown::Both);
    }
}

/// Middleware that makes the trouble that was ordered.
///
/// # Errors
/// Those of the inner service.
pub async fn misbehave(request: ServiceRequest, next: Next<BoxBody>) -> Result<ServiceResponse<BoxBody>, Error> {
    let path = request.path().to_owned();
    let state = request.app_data::<web::Data<State>>().cloned();
    let on = match (path.as_str(), request.method()) {
        ("/micropub", &Method::POST) => On::Changes,
        ("/micropub", _) => On::Sources,
        _ => On::Pages,
    };
    let about = if on == On::Pages { path } else { String::new() };
    let trouble = state.as_ref().and_then(|state| state.plans.next(on, &about));
    let connection = request.conn_data::<Arc<Connection>>().cloned();
    let end = || connection.iter().for_each(|connection| connection.end());
    match trouble {
        None => next.call(request).await,
        Some(Trouble::Slow { milliseconds }) => {
            actix_web::rt::time::sleep(Duration::from_millis(milliseconds)).await;
            next.call(request).await
        }
        Some(Trouble::Status { status, retry_after }) => {
            let status = StatusCode::from_u16(status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
            let mut answer = HttpResponse::build(status);
            if let Some(seconds) = retry_after {
                answer.insert_header((RETRY_AFTER, seconds.to_string()));
            }
            Ok(request.into_response(answer.body("the site is not well")))
        }
        Some(Trouble::Drop) => {
            end();
            Ok(request.into_response(HttpResponse::NoContent().finish()))
        }
        Some(Trouble::LoseAnswer) => {
            let answer = next.call(request).await;
            end();
            answer
        }
        Some(Trouble::Half) => Ok(next.call(request).await?.map_body(|_, body| half(body))),
    }
}

/// A body that breaks off in its middle.
fn half(body: BoxBody) -> BoxBody {
    let BodySize::Sized(size) = body.size() else { return body };
    let Ok(whole) = body.try_into_bytes() else { return BoxBody::new(()) };
    let part = whole.slice(..whole.len() / 2);
    let broken = stream::iter([Ok::<Bytes, std::io::Error>(part)])
        .chain(stream::once(ready(Err(std::io::Error::other("the connection broke")))));
    BoxBody::new(SizedStream::new(size, Box::pin(broken)))
}

/// What whoever runs the stand-in can order over HTTP, with its token.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum Order {
    Misbehave(Mischief),
    Behave,
    /// Changes a page behind the back of whoever reads it: its whole content.
    Change {
        path: String,
        content: String,
    },
    Delete {
        path: String,
    },
    /// Lets a page send on to another.
    Move {
        path: String,
        to: String,
    },
    /// Adds a page: a file with front matter.
    Add {
        path: String,
        source: String,
    },
}

pub async fn order(request: actix_web::HttpRequest, state: web::Data<State>, order: web::Json<Order>) -> HttpResponse {
    if !super::publish::is_authorised(&request, &state) {
        return HttpResponse::Unauthorized().finish();
    }
    match state.obey(order.into_inner()) {
        Ok(()) => HttpResponse::NoContent().finish(),
        Err(error) => HttpResponse::UnprocessableEntity().body(error.to_string()),
    }
}
