//! The server: API and interface on one address.

use std::net::TcpListener;
use std::sync::Arc;
use std::time::Duration;

use actix_governor::{Governor, GovernorConfigBuilder};
use actix_web::middleware::{Compress, from_fn};
use actix_web::{App, HttpServer, web};
use strelm_sources::client::Client;
use strelm_sources::guard::AddressRules;
use strelm_store::PgPool;
use tokio::sync::Semaphore;
use tracing_actix_web::TracingLogger;
use utoipa_actix_web::AppExt;

use crate::api::events::{self, Events};
use crate::api::{self, State, guard::guard, health};
use crate::config::Config;
use crate::interface;
use strelm_live::{LiveSites, Purpose};
use strelm_work::folders::Folders;
use strelm_work::secrets::Secrets;
use strelm_work::uploads::Uploads;

/// Plans that are looked for at the same time; others wait for their turn.
const PLANS_AT_ONCE: usize = 4;

/// Bodies of requests larger than this are refused.
const LARGEST_BODY: usize = 2 << 20;

/// What a server is made of.
#[derive(Clone)]
pub struct Parts {
    pub pool: PgPool,
    pub networks: AddressRules,
    pub secrets: Secrets,
    pub folders: Folders,
    pub upload_mb: u64,
    pub uploads_mb: u64,
    pub requests_a_second: u32,
    pub models_mb: usize,
    pub shutdown: Duration,
}

impl Parts {
    /// All parts of the server, with their limits.
    pub fn new(pool: PgPool, config: &Config) -> Self {
        Self {
            pool,
            networks: config.networks.clone(),
            secrets: Secrets::new(&config.secrets),
            folders: config.folders.clone(),
            upload_mb: config.upload_mb,
            uploads_mb: config.uploads_mb,
            requests_a_second: config.requests_a_second,
            models_mb: config.models_mb,
            shutdown: config.shutdown,
        }
    }
}

/// A server, and how to end the streams that would keep it from ending.
pub struct Served {
    pub server: actix_web::dev::Server,
    pub events: Events,
}

/// Answers until it is stopped by its handle. Signals are left to the caller.
///
/// Must be called inside an Actix system; the database must be up to date.
///
/// # Errors
/// When the listener cannot be used or no HTTP client can be made.
pub fn server(parts: Parts, listener: TcpListener, workers: usize) -> anyhow::Result<Served> {
    let client = Client::new(parts.networks)?;
    let events = Events::start(parts.pool.clone());
    let live = Arc::new(LiveSites::new(parts.models_mb.saturating_mul(1024 * 1024), Purpose::Editing)?);
    tokio::spawn(events::follow_all(events.clone(), Arc::clone(&live), parts.pool.clone()));
    let state = web::Data::new(State {
        pool: parts.pool,
        client,
        live,
        events: events.clone(),
        secrets: parts.secrets,
        uploads: Uploads::new(&parts.folders.uploads, parts.upload_mb, parts.uploads_mb),
        folders: parts.folders,
        kept_shown: Default::default(),
        plans: Arc::new(Semaphore::new(PLANS_AT_ONCE)),
        turns: Arc::new(Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from))),
    });
    health::recorder();
    let rate = GovernorConfigBuilder::default()
        .requests_per_second(u64::from(parts.requests_a_second))
        .burst_size(parts.requests_a_second.saturating_mul(2))
        .finish()
        .ok_or_else(|| anyhow::anyhow!("the rate of requests cannot be limited to {}", parts.requests_a_second))?;
    let app = move || {
        let (app, _) = App::new()
            .into_utoipa_app()
            .map(|app| {
                app.wrap(Compress::default())
                    .wrap(Governor::new(&rate))
                    .wrap(from_fn(health::count))
                    .wrap(from_fn(guard))
                    .wrap(TracingLogger::default())
                    .app_data(state.clone())
                    .app_data(web::JsonConfig::default().limit(LARGEST_BODY).error_handler(api::unreadable_body))
                    .app_data(web::QueryConfig::default().error_handler(api::unreadable_query))
                    .app_data(web::PathConfig::default().error_handler(api::unreadable_path))
                    .app_data(web::PayloadConfig::default().limit(LARGEST_BODY))
            })
            .configure(api::configure)
            .split_for_parts();
        app.configure(health::configure).configure(interface::configure)
    };
    let server = HttpServer::new(app)
        .workers(workers)
        .disable_signals()
        .client_request_timeout(Duration::from_secs(15))
        .shutdown_timeout(parts.shutdown.as_secs())
        .listen(listener)?
        .run();
    Ok(Served { server, events })
}
