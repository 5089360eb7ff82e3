//! The command line.

use std::net::TcpListener;
use std::path::PathBuf;

use anyhow::Context;
use clap::{Parser, Subcommand};
use strelm_core::site::Address;
use strelm_store::{PgPool, connect, migrate, site};

use crate::config::Config;
use crate::jobs::{self, Tools, Worker};
use crate::secrets::Secrets;
use crate::survey::Survey;
use crate::{api, serve};

#[derive(Debug, Parser)]
#[command(name = "strelm", version, about = "The workbench for the links between the pages of a site")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serve the interface and the API on loopback
    Serve {
        #[command(flatten)]
        config: Config,
        #[arg(long, default_value_t = 4870)]
        port: u16,
    },
    /// Work on what was ordered: readings and releases. Any number of workers may run
    Work {
        #[command(flatten)]
        config: Config,
        /// Jobs at the same time
        #[arg(long, default_value_t = 4)]
        at_once: usize,
    },
    /// Look after the sites that Strelm knows
    #[command(subcommand)]
    Site(SiteCommand),
    /// Read a folder of HTML without a database and print what is to be said of its links
    Survey(Survey),
    /// Print the description of the API
    Openapi,
}

#[derive(Debug, Subcommand)]
enum SiteCommand {
    /// Add a site and order its first reading; a site that is known already is left as it is
    Add {
        #[command(flatten)]
        config: Config,
        /// Address of the page on which readers start
        entry: String,
        #[arg(long)]
        name: String,
        /// Address of the editing interface (Micropub)
        #[arg(long, requires = "token_file")]
        micropub: Option<String>,
        /// A file with the bearer token of the editing interface
        #[arg(long)]
        token_file: Option<PathBuf>,
    },
}

/// # Errors
/// Whatever keeps the command from doing its work, in words for whoever called it.
pub fn run() -> anyhow::Result<()> {
    match Arguments::parse().command {
        Command::Serve { config, port } => {
            log();
            let listener = TcpListener::bind(("127.0.0.1", port))
                .with_context(|| format!("port {port} cannot be had; choose another with --port"))?;
            actix_web::rt::System::new().block_on(async move {
                let pool = open(&config).await?;
                tracing::info!(port, "serving on loopback");
                Ok(serve::server(pool, listener, 2)?.await?)
            })
        }
        Command::Work { config, at_once } => {
            log();
            runtime()?.block_on(work(config, at_once))
        }
        Command::Site(SiteCommand::Add { config, entry, name, micropub, token_file }) => {
            runtime()?.block_on(add_site(&config, &entry, &name, micropub.as_deref(), token_file))
        }
        Command::Survey(survey) => survey.run(),
        Command::Openapi => {
            println!("{}", api::document().to_pretty_json()?);
            Ok(())
        }
    }
}

fn log() {
    let filter = tracing_subscriber::EnvFilter::try_from_env("STRELM_LOG");
    let filter = filter.unwrap_or_else(|_| tracing_subscriber::EnvFilter::new("warn,strelm_server=info"));
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr).init();
}

fn runtime() -> std::io::Result<tokio::runtime::Runtime> {
    tokio::runtime::Runtime::new()
}

async fn open(config: &Config) -> anyhow::Result<PgPool> {
    let pool = connect(&config.database, 16).await.context("is the database running, and is its address right?")?;
    prepare(&pool).await?;
    Ok(pool)
}

/// Brings the database up to date, our tables and the queue's.
///
/// # Errors
/// When the database refuses.
pub async fn prepare(pool: &PgPool) -> anyhow::Result<()> {
    migrate(pool).await?;
    jobs::set_up(pool).await?;
    Ok(())
}

async fn work(config: Config, at_once: usize) -> anyhow::Result<()> {
    let pool = open(&config).await?;
    let client = strelm_sources::client::client()?;
    let tools = Tools { pool, client, secrets: Secrets::new(&config.secrets) };
    let (stop, stopped) = tokio::sync::watch::channel(false);
    let mut terminate = tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate())?;
    tokio::spawn(async move {
        tokio::select! {
            _ = tokio::signal::ctrl_c() => {}
            _ = terminate.recv() => {}
        }
        let _ = stop.send(true);
    });
    tracing::info!("working");
    Worker { tools, at_once }.run(stopped).await;
    Ok(())
}

async fn add_site(
    config: &Config,
    entry: &str,
    name: &str,
    micropub: Option<&str>,
    token_file: Option<PathBuf>,
) -> anyhow::Result<()> {
    let entry = Address::parse(entry)?;
    let micropub = micropub.map(Address::parse).transpose()?;
    let pool = open(config).await?;
    let (id, is_new) = site::add(&pool, name, &entry, micropub.as_ref().map(Address::as_str)).await?;
    if let Some(file) = token_file {
        let token = std::fs::read_to_string(&file).with_context(|| format!("{} cannot be read", file.display()))?;
        Secrets::new(&config.secrets).set_token(id, &token)?;
    }
    if is_new {
        jobs::order_reading(&pool, id).await?;
        println!("added {name}; its first reading is ordered");
    } else {
        println!("{name} is known already");
    }
    Ok(())
}
