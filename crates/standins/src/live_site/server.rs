//! Starting and stopping the live site on a thread of its own.

use std::path::PathBuf;
use std::sync::{Mutex, PoisonError, mpsc};
use std::thread::JoinHandle;
use std::time::Duration;

use actix_web::body::BoxBody;
use actix_web::middleware::{Next, from_fn};
use actix_web::{App, HttpServer, web};
use thiserror::Error;

use super::mischief::{Connection, misbehave};
use super::orders::{Order, Plans};
use super::routes::configure;
use super::shelf::{Shelf, ShelfError};
use super::state::State;

/// Where the site stands and how it behaves.
#[derive(Debug, Clone)]
pub struct Options {
    /// Folders with `pages` and `media` from which the site starts.
    pub seeds: Vec<PathBuf>,
    /// Where the site keeps its state.
    pub state: PathBuf,
    /// On loopback; 0 for any free one.
    pub port: u16,
    /// The bearer token that Micropub asks for.
    pub token: String,
    /// How long each answer takes, as on a small host far away.
    pub delay: Duration,
}

/// Why the site cannot start.
#[derive(Debug, Error)]
pub enum StartError {
    #[error(transparent)]
    Shelf(#[from] ShelfError),
    #[error("port {port} on loopback cannot be had: {error}")]
    Port { port: u16, error: std::io::Error },
    #[error("the server did not start")]
    Server,
}

/// A live site that runs until it is stopped or dropped.
pub struct Running {
    base: String,
    state: web::Data<State>,
    handle: actix_web::dev::ServerHandle,
    thread: Option<JoinHandle<()>>,
}

impl Running {
    /// The address of its home page, with a slash at the end.
    pub fn entry(&self) -> String {
        format!("{}/", self.base)
    }

    /// The address of its editing interface.
    pub fn micropub(&self) -> String {
        format!("{}/micropub", self.base)
    }

    /// Does what it is told: misbehaves, changes a page behind everybody's back, loses one.
    ///
    /// # Errors
    /// When there is no such page.
    pub fn obey(&self, order: Order) -> Result<(), ShelfError> {
        self.state.obey(order)
    }

    /// Method and path of each answer so far, with its status.
    pub fn answers(&self) -> Vec<(String, u16)> {
        self.state.answers.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Waits until the site ends by itself.
    pub fn wait(mut self) {
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        if let Some(thread) = self.thread.take() {
            // The order to stop is sent at once; the future only waits for its end, and so does the thread.
            drop(self.handle.stop(false));
            let _ = thread.join();
        }
    }
}

/// # Errors
/// [`StartError`] when the content cannot be read or the port is taken.
pub fn start(options: Options) -> Result<Running, StartError> {
    let shelf = Shelf::open(&options.seeds, &options.state)?;
    let port = options.port;
    let listener =
        std::net::TcpListener::bind(("127.0.0.1", port)).map_err(|error| StartError::Port { port, error })?;
    let address = listener.local_addr().map_err(|error| StartError::Port { port, error })?;
    let base = format!("http://{address}");
    let state = web::Data::new(State {
        shelf,
        base: base.clone(),
        token: options.token,
        plans: Plans::default(),
        answers: Mutex::default(),
    });
    let shared = state.clone();
    let (sender, receiver) = mpsc::channel();
    let thread = std::thread::spawn(move || {
        let result = actix_web::rt::System::new().block_on(async move {
            let delay = options.delay;
            let slow = move |request, next: Next<BoxBody>| async move {
                actix_web::rt::time::sleep(delay).await;
                next.call(request).await
            };
            let app = move || {
                App::new()
                    .wrap(from_fn(misbehave))
                    .wrap(from_fn(note))
                    .wrap(from_fn(slow))
                    .app_data(state.clone())
                    .configure(configure)
            };
            let server = HttpServer::new(app).on_connect(Connection::hold).workers(2).listen(listener)?.run();
            let _ = sender.send(server.handle());
            server.await
        });
        if let Err(error) = result {
            eprintln!("the live site ended: {error}");
        }
    });
    let handle = receiver.recv().map_err(|_| StartError::Server)?;
    Ok(Running { base, state: shared, handle, thread: Some(thread) })
}

/// Middleware that notes each answer.
async fn note(
    request: actix_web::dev::ServiceRequest,
    next: Next<BoxBody>,
) -> Result<actix_web::dev::ServiceResponse<BoxBody>, actix_web::Error> {
    let state = request.app_data::<web::Data<State>>().cloned();
    let asked = format!("{} {}", request.method(), request.uri());
    let answer = next.call(request).await?;
    if let Some(state) = state {
        let mut answers = state.answers.lock().unwrap_or_else(PoisonError::into_inner);
        // The last few thousand are enough for anybody who looks.
        if answers.len() >= 10_000 {
            answers.drain(..5_000);
        }
        answers.push((asked, answer.status().as_u16()));
    }
    Ok(answer)
}
