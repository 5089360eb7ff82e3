//! Everything that Strelm is made of, started for one test: the live site, the server, a worker, on a database of
//! their own.

use std::net::TcpListener;
use std::path::PathBuf;
use std::sync::OnceLock;
use std::thread::JoinHandle;
use std::time::Duration;

use anyhow::Context;
use sqlx::ConnectOptions;
use sqlx::postgres::PgConnectOptions;
use strelm_core::site::Address;
use strelm_server::api::events::Events;
use strelm_server::command::prepare;
use strelm_server::serve::{self, Parts, Served};
use strelm_sources::client::Client;
use strelm_sources::guard::AddressRules;
use strelm_sources::pace::Patience;
use strelm_standins::live_site::{self, Options, Running};
use strelm_store::reading::{self, ReadingState};
use strelm_store::site::{self, Settings, SiteSource};
use strelm_store::{PgPool, SiteId, connect};
use strelm_work::folders::Folders;
use strelm_work::secrets::Secrets;
use strelm_work::{Tools, Worker};
use url::Url;

use crate::browser::free_port;

/// With it the stage's live site takes changes.
pub const TOKEN: &str = "the-token-of-the-stage";

/// As patient as the real one, but in a hurry.
pub const PATIENCE: Patience =
    Patience { tries: 4, first_wait: Duration::from_millis(40), longest_wait: Duration::from_secs(3) };

/// A client for asking servers of the stage.
///
/// # Errors
/// When none can be made.
pub fn http() -> anyhow::Result<reqwest::Client> {
    static MADE: OnceLock<reqwest::Client> = OnceLock::new();
    if let Some(made) = MADE.get() {
        return Ok(made.clone());
    }
    // Makes the provider of encryption known that every client looks for.
    Client::new(AddressRules::with_loopback())?;
    // A client takes longer to make than most answers do. Each test has a runtime of its own, so no connection is kept.
    let client = reqwest::Client::builder().pool_max_idle_per_host(0).build()?;
    Ok(MADE.get_or_init(|| client).clone())
}

/// An edge before the live site, as a process of its own.
pub struct EdgeProcess {
    child: std::process::Child,
    /// Where it listens, without a slash at its end.
    pub address: String,
}

impl EdgeProcess {
    /// A page as its readers get it.
    ///
    /// # Errors
    /// When the edge does not answer.
    pub async fn page(&self, path: &str) -> anyhow::Result<String> {
        Ok(http()?.get(format!("{}{path}", self.address)).send().await?.error_for_status()?.text().await?)
    }
}

impl Drop for EdgeProcess {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// A worker as a process of its own, which can be killed.
pub struct WorkerProcess(std::process::Child);

impl WorkerProcess {
    /// Ends it as a crash would.
    ///
    /// # Errors
    /// When it has ended already.
    pub fn kill(mut self) -> std::io::Result<()> {
        self.0.kill()?;
        self.0.wait().map(|_| ())
    }
}

impl Drop for WorkerProcess {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// The program `strelm` as it was built for the tests.
///
/// # Errors
/// When it was not built.
pub fn program() -> anyhow::Result<PathBuf> {
    let here = std::env::current_exe()?;
    let program = here.ancestors().nth(2).map(|folder| folder.join("strelm"));
    program.filter(|program| program.exists()).context("build strelm-server first: its program is missing")
}

/// Sites may be read from folders below the stage's own.
fn allowed(folders: &tempfile::TempDir) -> Folders {
    Folders { named: vec![folders.path().to_owned()], uploads: folders.path().join("uploads") }
}

/// All that a journey needs: a live site, a server, a worker and a database of its own.
pub struct Stage {
    pub live: Running,
    pub pool: PgPool,
    pub site: SiteId,
    port: u16,
    database: String,
    secrets: Secrets,
    server: Option<Server>,
    stop_worker: tokio::sync::watch::Sender<bool>,
    folders: tempfile::TempDir,
}

/// A server on a thread of its own.
pub struct Server {
    port: u16,
    handle: actix_web::dev::ServerHandle,
    events: Events,
    thread: JoinHandle<()>,
}

impl Server {
    async fn start(database: &str, secrets: Secrets, folders: Folders, port: u16) -> anyhow::Result<Self> {
        let listener = bind(port).await?;
        let (sender, receiver) = tokio::sync::oneshot::channel();
        let database = database.to_owned();
        let thread = std::thread::spawn(move || {
            let result = actix_web::rt::System::new().block_on(async move {
                let pool = connect(&database, 8).await?;
                let parts = Parts {
                    pool: pool.clone(),
                    networks: AddressRules::with_loopback(),
                    secrets,
                    folders,
                    upload_mb: 20,
                    uploads_mb: 200,
                    requests_a_second: 100_000,
                    models_mb: 1024,
                    shutdown: Duration::from_secs(5),
                };
                let Served { server, events } = serve::server(parts, listener, 2)?;
                let _ = sender.send((server.handle(), events));
                server.await?;
                pool.close().await;
                anyhow::Ok(())
            });
            if let Err(error) = result {
                eprintln!("the server ended: {error:#}");
            }
        });
        let (handle, events) = receiver.await.context("the server did not start")?;
        Ok(Self { port, handle, events, thread })
    }

    /// The address of a path of this server.
    pub fn address(&self, path: &str) -> String {
        format!("http://127.0.0.1:{}/{path}", self.port)
    }

    /// Ends it in good order.
    pub async fn stop(self) {
        self.events.end();
        self.handle.stop(false).await;
        let _ = tokio::task::spawn_blocking(move || self.thread.join()).await;
    }
}

impl Stage {
    /// Everything started on the database of a test, the site not yet read.
    ///
    /// # Errors
    /// When one of the parts does not start.
    pub async fn set(options: PgConnectOptions) -> anyhow::Result<Self> {
        Self::set_with(options, &["demo"]).await
    }

    /// With pages from some folders of this repository.
    async fn set_with(options: PgConnectOptions, seeds: &[&str]) -> anyhow::Result<Self> {
        // With its password, for the parts that make their own connections.
        let database = &options.to_url_lossy().to_string();
        let folders = tempfile::tempdir()?;
        let root = PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."));
        let state = folders.path().join("live-site");
        let live = live_site::start(Options {
            seeds: seeds.iter().map(|seed| root.join(seed)).collect(),
            state,
            port: 0,
            token: TOKEN.into(),
            delay: Duration::ZERO,
        })?;
        let pool = connect(database, 8).await?;
        prepare(&pool).await?;
        let entry = Address::parse(&live.entry())?;
        let (site, _) = site::add(
            &pool,
            &entry,
            &Settings::new("Larkmoor Sky Society", SiteSource::Web { micropub: Some(live.micropub()) }),
        )
        .await?;
        let secrets = Secrets::new(&folders.path().join("secrets"));
        secrets.set_token(site, &Url::parse(&live.micropub())?, TOKEN)?;
        let stop_worker = start_worker(&pool, &secrets, allowed(&folders))?;
        let port = free_port()?;
        let mut stage =
            Self { live, pool, site, port, database: database.to_owned(), secrets, server: None, stop_worker, folders };
        stage.start_server().await?;
        Ok(stage)
    }

    /// As [`Stage::set`], with the site read in.
    ///
    /// # Errors
    /// As [`Stage::set`], or when the reading fails.
    pub async fn read_in(options: PgConnectOptions) -> anyhow::Result<Self> {
        let stage = Self::set(options).await?;
        stage.read_site().await?;
        stage.wait_for_reading().await?;
        Ok(stage)
    }

    /// As [`Stage::read_in`], with all pages of the demo rather than the smaller part of them.
    ///
    /// # Errors
    /// As [`Stage::read_in`].
    pub async fn read_in_whole(options: PgConnectOptions) -> anyhow::Result<Self> {
        let stage = Self::set_with(options, &["demo", "demo/more"]).await?;
        stage.read_site().await?;
        stage.wait_for_reading().await?;
        Ok(stage)
    }

    /// Orders a reading.
    ///
    /// # Errors
    /// When it cannot be ordered.
    pub async fn read_site(&self) -> anyhow::Result<()> {
        strelm_work::order_reading(&self.pool, self.site).await?;
        Ok(())
    }

    /// Waits until the latest reading is done.
    ///
    /// # Errors
    /// When it fails, or takes longer than anybody would wait.
    pub async fn wait_for_reading(&self) -> anyhow::Result<()> {
        for _ in 0..400 {
            let latest = reading::latest(&self.pool, self.site).await?.context("no reading was ordered")?;
            match latest.state {
                ReadingState::Done => return Ok(()),
                ReadingState::Failed => anyhow::bail!("the reading failed: {:?}", latest.message),
                ReadingState::Stopped => anyhow::bail!("the reading was stopped"),
                ReadingState::Asking => anyhow::bail!("the reading asks: {:?}", latest.message),
                ReadingState::Waiting | ReadingState::Running | ReadingState::Stopping => {
                    tokio::time::sleep(Duration::from_millis(50)).await
                }
            }
        }
        anyhow::bail!("the reading does not end")
    }

    /// Waits until the server has looked for openings on all pages.
    ///
    /// # Errors
    /// When it takes longer than anybody would wait.
    pub async fn wait_for_openings(&self) -> anyhow::Result<()> {
        for _ in 0..1200 {
            if self.get("").await?["openings_waiting"] == 0 {
                return Ok(());
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        anyhow::bail!("openings are still looked for")
    }

    /// Starts the server anew, with nothing in its memory.
    ///
    /// # Errors
    /// When it does not come up again.
    pub async fn restart_server(&mut self) -> anyhow::Result<()> {
        self.stop_server().await;
        self.start_server().await
    }

    /// The address of a path of the stage's own server.
    pub fn address(&self, path: &str) -> String {
        format!("http://127.0.0.1:{}/{path}", self.port)
    }

    /// The content of a page as the live site's editing interface gives it.
    ///
    /// # Errors
    /// When the site does not answer.
    pub async fn live_source(&self, path: &str) -> anyhow::Result<String> {
        let answer: serde_json::Value = http()?
            .get(self.live.micropub())
            .query(&[("q", "source"), ("url", path)])
            .bearer_auth(TOKEN)
            .send()
            .await?
            .json()
            .await?;
        let html = answer["properties"]["content"][0]["html"].as_str();
        html.map(str::to_owned).with_context(|| format!("no source of {path}: {answer}"))
    }

    /// Changes a page on the live site behind Strelm's back.
    ///
    /// # Errors
    /// When the site does not answer.
    pub async fn change_live_page(&self, path: &str, html: &str) -> anyhow::Result<()> {
        let body = serde_json::json!({"action": "update", "url": path, "replace": {"content": [{"html": html}]}});
        let client = http()?;
        client.post(self.live.micropub()).bearer_auth(TOKEN).json(&body).send().await?.error_for_status()?;
        Ok(())
    }

    /// Another server on the same database.
    ///
    /// # Errors
    /// When it does not start.
    pub async fn second_server(&self) -> anyhow::Result<Server> {
        Server::start(&self.database, self.secrets.clone(), allowed(&self.folders), free_port()?).await
    }

    /// The program with the stage's settings.
    ///
    /// # Errors
    /// When it was not built.
    pub fn strelm(&self) -> anyhow::Result<std::process::Command> {
        let mut command = std::process::Command::new(program()?);
        command
            .env("STRELM_DATABASE", &self.database)
            .env("STRELM_SECRETS", self.folders.path().join("secrets"))
            .env("STRELM_FOLDERS", self.folders.path())
            .env("STRELM_UPLOADS", self.folders.path().join("uploads"))
            .env("STRELM_ALLOW_NETWORKS", "loopback")
            .env("STRELM_LOG", "text,error")
            .current_dir(self.folders.path());
        Ok(command)
    }

    /// Starts a worker as a process of its own.
    ///
    /// # Errors
    /// When it cannot be started.
    pub fn worker_process(&self) -> anyhow::Result<WorkerProcess> {
        let mut command = self.strelm()?;
        Ok(WorkerProcess(command.arg("work").stdin(std::process::Stdio::null()).spawn()?))
    }

    /// An edge before the live site, once it answers.
    ///
    /// # Errors
    /// When it does not start.
    pub async fn edge(&self) -> anyhow::Result<EdgeProcess> {
        let listen = format!("127.0.0.1:{}", free_port()?);
        let mut command = self.strelm()?;
        command.args(["edge", "--site", "Larkmoor Sky Society", "--upstream", &self.live.entry(), "--listen", &listen]);
        let edge = EdgeProcess { child: command.spawn()?, address: format!("http://{listen}") };
        for _ in 0..200 {
            if edge.page("/").await.is_ok() {
                return Ok(edge);
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        anyhow::bail!("the edge does not answer")
    }

    /// A new folder on the stage, below those that may be read.
    ///
    /// # Errors
    /// When it cannot be made.
    pub fn folder(&self, name: &str) -> std::io::Result<PathBuf> {
        let folder = self.folders.path().join(name);
        std::fs::create_dir_all(&folder)?;
        Ok(folder)
    }

    /// Stops the worker: what is ordered from now on waits.
    pub fn stop_worker(&self) {
        let _ = self.stop_worker.send(true);
    }

    /// Starts another worker in the place of the one that was stopped.
    ///
    /// # Errors
    /// When it cannot be made.
    pub fn start_worker(&mut self) -> anyhow::Result<()> {
        self.stop_worker = start_worker(&self.pool, &self.secrets, allowed(&self.folders))?;
        Ok(())
    }

    /// Gives the worker another token for the live site.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn set_token(&self, token: &str) -> std::io::Result<()> {
        let endpoint = Url::parse(&self.live.micropub()).map_err(std::io::Error::other)?;
        self.secrets.set_token(self.site, &endpoint, token)
    }

    /// Stops all parts in good order.
    pub async fn strike(mut self) {
        let _ = self.stop_worker.send(true);
        self.stop_server().await;
        self.pool.close().await;
    }

    /// # Errors
    /// When the server does not come up.
    pub async fn start_server(&mut self) -> anyhow::Result<()> {
        self.server =
            Some(Server::start(&self.database, self.secrets.clone(), allowed(&self.folders), self.port).await?);
        Ok(())
    }

    /// Ends the server; the worker and the live site go on.
    pub async fn stop_server(&mut self) {
        if let Some(server) = self.server.take() {
            server.stop().await;
        }
    }
}

/// A worker that runs until it is told to stop.
fn start_worker(
    pool: &PgPool,
    secrets: &Secrets,
    folders: Folders,
) -> anyhow::Result<tokio::sync::watch::Sender<bool>> {
    let (stop, stopped) = tokio::sync::watch::channel(false);
    let tools = Tools {
        pool: pool.clone(),
        client: Client::new(AddressRules::with_loopback())?,
        secrets: secrets.clone(),
        folders,
        patience: PATIENCE,
    };
    tokio::spawn(Worker { tools, at_once: 2, shutdown: Duration::from_secs(5) }.run(stopped));
    Ok(stop)
}

/// The port may take a moment to be free again.
async fn bind(port: u16) -> anyhow::Result<TcpListener> {
    for _ in 0..100 {
        if let Ok(listener) = TcpListener::bind(("127.0.0.1", port)) {
            return Ok(listener);
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    anyhow::bail!("port {port} is not free")
}
