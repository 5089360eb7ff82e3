//! A bad connection: a proxy before a server of the stage that answers orders in its place, swallows answers or tears them
//! apart, at random.

use std::sync::Arc;
use std::sync::atomic::{AtomicU8, AtomicUsize, Ordering};
use std::thread::JoinHandle;

use actix_web::body::SizedStream;
use actix_web::http::StatusCode;
use actix_web::{App, HttpRequest, HttpResponse, HttpServer, web};
use anyhow::Context;
use futures::StreamExt;

use crate::stage::http;

/// How an order fares.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fate {
    Passes,
    /// The order does not come to the server, and this is answered.
    Lost(u16),
    /// It does, and this is answered in the server's place.
    Hidden(u16),
    /// Its answer ends half way.
    Torn,
    /// Its answer is a page of somebody else's.
    Replaced,
}

const FATES: [Fate; 9] = [
    Fate::Lost(500),
    Fate::Hidden(500),
    Fate::Lost(429),
    Fate::Lost(408),
    Fate::Hidden(408),
    Fate::Lost(502),
    Fate::Hidden(502),
    Fate::Torn,
    Fate::Replaced,
];

struct Shared {
    server: String,
    /// So many in a hundred orders fare badly.
    bad: AtomicU8,
    spoilt: AtomicUsize,
    client: reqwest::Client,
}

/// A proxy on a thread of its own.
pub struct BadConnection {
    port: u16,
    shared: Arc<Shared>,
    handle: actix_web::dev::ServerHandle,
    thread: JoinHandle<()>,
}

impl BadConnection {
    /// Before the server at an address; `bad` in a hundred orders do not get through as they should.
    ///
    /// # Errors
    /// When it cannot listen.
    pub async fn before(server: &str, bad: u8) -> anyhow::Result<Self> {
        let shared = Arc::new(Shared {
            server: server.trim_end_matches('/').to_owned(),
            bad: AtomicU8::new(bad),
            spoilt: AtomicUsize::new(0),
            client: http()?,
        });
        let listener = std::net::TcpListener::bind(("127.0.0.1", 0))?;
        let port = listener.local_addr()?.port();
        let (sender, receiver) = tokio::sync::oneshot::channel();
        let for_server = Arc::clone(&shared);
        let thread = std::thread::spawn(move || {
            let result = actix_web::rt::System::new().block_on(async move {
                let state = web::Data::from(for_server);
                let app = move || App::new().app_data(state.clone()).default_service(web::to(relay));
                let server = HttpServer::new(app).workers(1).disable_signals().listen(listener)?.run();
                let _ = sender.send(server.handle());
                server.await
            });
            if let Err(error) = result {
                eprintln!("the proxy ended: {error}");
            }
        });
        let handle = receiver.await.context("the proxy did not start")?;
        Ok(Self { port, shared, handle, thread })
    }

    /// An address that leads through it to the server.
    pub fn address(&self, path: &str) -> String {
        format!("http://127.0.0.1:{}/{path}", self.port)
    }

    /// From now on so many in a hundred orders fare badly.
    pub fn set_bad(&self, bad: u8) {
        self.shared.bad.store(bad, Ordering::Relaxed);
    }

    /// How many orders fared badly so far.
    pub fn spoilt(&self) -> usize {
        self.shared.spoilt.load(Ordering::Relaxed)
    }

    /// Ends it; connections that stand break off.
    pub async fn stop(self) {
        self.handle.stop(false).await;
        let _ = tokio::task::spawn_blocking(move || self.thread.join()).await;
    }
}

async fn relay(shared: web::Data<Shared>, request: HttpRequest, body: web::Bytes) -> HttpResponse {
    let fate = fate(&shared, &request);
    if let Fate::Lost(status) = fate {
        return instead(status);
    }
    let address = format!("{}{}", shared.server, request.uri());
    let mut order = shared.client.request(request.method().as_str().parse().unwrap_or_default(), address).body(body);
    for (name, value) in request.headers() {
        // The server answers to its own pages only.
        if !["host", "origin", "accept-encoding", "connection", "content-length"].contains(&name.as_str()) {
            order = order.header(name.as_str(), value.as_bytes());
        }
    }
    let Ok(answer) = order.send().await else { return instead(502) };
    match fate {
        Fate::Hidden(status) => return instead(status),
        Fate::Replaced => return HttpResponse::Ok().content_type("text/html").body("<h1>Welcome to our network</h1>"),
        _ => {}
    }
    let status = StatusCode::from_u16(answer.status().as_u16()).unwrap_or_default();
    let mut relayed = HttpResponse::build(status);
    for (name, value) in answer.headers() {
        if !["connection", "transfer-encoding", "content-length"].contains(&name.as_str()) {
            relayed.append_header((name.as_str(), value.as_bytes()));
        }
    }
    if fate == Fate::Torn {
        let whole = answer.bytes().await.unwrap_or_default();
        let half = Ok(whole.slice(..whole.len() / 2));
        let parts = futures::stream::iter([half, Err(std::io::Error::other("the connection broke"))]);
        return relayed.body(SizedStream::new(whole.len() as u64, parts));
    }
    relayed.streaming(answer.bytes_stream().map(|part| part.map_err(std::io::Error::other)))
}

fn fate(shared: &Shared, request: &HttpRequest) -> Fate {
    let is_order = ["/decisions", "/undo", "/redo"].iter().any(|end| request.path().ends_with(end));
    if !is_order || fastrand::u8(..100) >= shared.bad.load(Ordering::Relaxed) {
        return Fate::Passes;
    }
    shared.spoilt.fetch_add(1, Ordering::Relaxed);
    FATES[fastrand::usize(..FATES.len())]
}

fn instead(status: u16) -> HttpResponse {
    let status = StatusCode::from_u16(status).unwrap_or(StatusCode::BAD_GATEWAY);
    match status {
        // In the server's own shape, as its own failures are.
        StatusCode::INTERNAL_SERVER_ERROR => {
            HttpResponse::build(status).json(serde_json::json!({"message": "Something went wrong on the server."}))
        }
        _ => HttpResponse::build(status).content_type("text/html").body("<h1>Not now</h1>"),
    }
}
