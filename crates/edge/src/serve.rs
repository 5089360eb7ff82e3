//! An edge that runs.

use std::net::{SocketAddr, TcpListener};
use std::sync::Arc;
use std::time::Duration;

use actix_web::web::{Data, PayloadConfig, to};
use actix_web::{App, HttpServer};
use reqwest::header::HeaderValue;
use strelm_live::LiveSites;
use strelm_store::site::Site;
use strelm_store::{PgPool, SiteId, edge};
use thiserror::Error;
use url::Url;

use crate::forward::{self, Http, forward};
use crate::learner::Learner;
use crate::plans::Plans;

/// A site that is there answers within this time.
const CONNECTS_WITHIN: Duration = Duration::from_secs(5);
/// Between two pieces of an answer.
const ANSWERS_WITHIN: Duration = Duration::from_secs(60);

/// How often it says that it runs.
const SAYS_SO_EVERY: Duration = Duration::from_secs(10);

/// Connections to the site that are kept open for what comes next, for each thread.
const KEPT_OPEN: usize = 256;

/// Why there is no edge.
#[derive(Debug, Error)]
pub enum EdgeError {
    #[error("the upstream has to be an http or https address without a path, such as http://127.0.0.1:8080")]
    NoUpstream,
    #[error("the name of the host has letters in it that no name has")]
    NoHost,
    #[error("no HTTP client could be made: {0}")]
    Client(#[from] reqwest::Error),
    #[error("the edge cannot be started: {0}")]
    Server(#[from] std::io::Error),
}

/// What an edge stands before, and where.
pub struct EdgeOptions {
    pub site: Site,
    pub upstream: Url,
    pub listener: TcpListener,
    /// The name under which the site is asked, instead of the one that the reader asked for.
    pub host: Option<String>,
    pub threads: usize,
    /// Whether pages pass as they come, whatever is set.
    pub is_plain: bool,
}

/// An edge that runs until it is stopped.
pub struct Edge {
    pub server: actix_web::dev::Server,
    /// Says that it runs, and follows the site.
    pub beside: Vec<tokio::task::JoinHandle<()>>,
    pub address: SocketAddr,
    pool: PgPool,
    site: SiteId,
}

impl Edge {
    /// Starts it, once the database knows that it runs. Must be called inside an Actix system; the database must be
    /// up to date.
    ///
    /// # Errors
    /// [`EdgeError`].
    pub async fn start(pool: PgPool, live: Arc<LiveSites>, options: EdgeOptions) -> Result<Self, EdgeError> {
        let EdgeOptions { site, upstream, listener, host, threads, is_plain } = options;
        if !matches!(upstream.scheme(), "http" | "https") || upstream.path() != "/" || upstream.query().is_some() {
            return Err(EdgeError::NoUpstream);
        }
        let host = host.map(|host| HeaderValue::from_str(&host)).transpose().map_err(|_| EdgeError::NoHost)?;
        let address = listener.local_addr()?;
        let id = site.id;
        let plans = Arc::new(Plans::new(pool.clone(), live, site));
        let learner = Learner::start(Arc::clone(&plans));
        let followed = Arc::clone(&plans);
        let follows = tokio::spawn(async move { followed.follow().await });
        let address_and_upstream = (address.to_string(), upstream.to_string());
        say_so(&pool, id, &address_and_upstream).await;
        let says_so = tokio::spawn(say_so_again(pool.clone(), id, address_and_upstream));
        let shared = Data::new(forward::Edge { upstream, host, plans, learner, is_plain });
        // One client is made here, so that what is wrong is told at once.
        client()?;
        let app = move || {
            let app = App::new().app_data(shared.clone()).app_data(PayloadConfig::new(usize::MAX));
            let app = match client() {
                Ok(http) => app.app_data(Data::new(Http(http))),
                Err(_) => app,
            };
            app.default_service(to(forward))
        };
        let server = HttpServer::new(app)
            .workers(threads)
            .disable_signals()
            .client_request_timeout(Duration::from_secs(15))
            .listen(listener)?
            .run();
        Ok(Self { server, beside: vec![follows, says_so], address, pool, site: id })
    }

    /// Runs until its server is stopped.
    ///
    /// # Errors
    /// [`EdgeError::Server`].
    pub async fn run(self) -> Result<(), EdgeError> {
        let ended = self.server.await;
        self.beside.iter().for_each(tokio::task::JoinHandle::abort);
        // Whoever looks is told so after a while in any case.
        let _ = edge::note_end(&self.pool, self.site, &self.address.to_string()).await;
        Ok(ended?)
    }
}

async fn say_so(pool: &PgPool, site: SiteId, (address, upstream): &(String, String)) {
    if let Err(error) = edge::note_running(pool, site, address, upstream).await {
        tracing::warn!(%error, "the edge cannot say that it runs");
    }
}

async fn say_so_again(pool: PgPool, site: SiteId, address_and_upstream: (String, String)) {
    loop {
        tokio::time::sleep(SAYS_SO_EVERY).await;
        say_so(&pool, site, &address_and_upstream).await;
    }
}

fn client() -> Result<reqwest::Client, reqwest::Error> {
    // A second installation is refused and harmless.
    let _ = rustls::crypto::ring::default_provider().install_default();
    reqwest::Client::builder()
        .redirect(reqwest::redirect::Policy::none())
        .no_gzip()
        .no_brotli()
        .no_proxy()
        .http1_only()
        .connect_timeout(CONNECTS_WITHIN)
        .read_timeout(ANSWERS_WITHIN)
        .pool_max_idle_per_host(KEPT_OPEN)
        .build()
}
