//! Misbehaving on command: slow answers, errors, dropped connections, half an answer, lost answers.

use std::future::ready;
use std::net::{Shutdown, TcpStream};
use std::sync::Arc;
use std::time::Duration;

use actix_web::body::{BodySize, BoxBody, MessageBody, SizedStream};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::RETRY_AFTER;
use actix_web::http::{Method, StatusCode};
use actix_web::middleware::Next;
use actix_web::web::Bytes;
use actix_web::{Error, HttpResponse, web};
use futures::{StreamExt, stream};

use super::orders::{On, Trouble};
use super::state::State;

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
