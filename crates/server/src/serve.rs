//! The server: API and interface on one address.

use std::net::TcpListener;
use std::sync::Arc;

use actix_web::middleware::{Compress, from_fn};
use actix_web::{App, HttpServer, web};
use strelm_store::PgPool;
use tracing_actix_web::TracingLogger;
use utoipa_actix_web::AppExt;

use crate::api::{self, State, events::Events, guard::guard};
use crate::interface;
use crate::live::LiveSites;

/// Answers until it is stopped by its handle or by a signal.
///
/// Must be called inside an Actix system; the database must be up to date.
///
/// # Errors
/// When the listener cannot be used or no HTTP client can be made.
pub fn server(pool: PgPool, listener: TcpListener, workers: usize) -> anyhow::Result<actix_web::dev::Server> {
    let client = strelm_sources::client::client()?;
    let events = Events::start(pool.clone());
    let state = web::Data::new(State { pool, client, live: Arc::new(LiveSites::default()), events });
    let app = move || {
        let (app, _) = App::new()
            .into_utoipa_app()
            .map(|app| {
                app.wrap(Compress::default())
                    .wrap(from_fn(guard))
                    .wrap(TracingLogger::default())
                    .app_data(state.clone())
                    .app_data(web::JsonConfig::default().limit(64 * 1024))
            })
            .configure(api::configure)
            .split_for_parts();
        app.configure(interface::configure)
    };
    Ok(HttpServer::new(app).workers(workers).shutdown_timeout(5).listen(listener)?.run())
}
