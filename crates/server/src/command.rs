//! The command line.

use std::io::{IsTerminal, Write};
use std::net::TcpListener;
use std::path::PathBuf;

use anyhow::Context;
use clap::{Parser, Subcommand};
use strelm_sources::client::Client;
use strelm_sources::pace::Patience;
use strelm_store::{PgPool, connect, migrate};

use tracing_subscriber::fmt::format::FmtSpan;

use crate::anchors::Anchors;
use crate::config::{Config, WrittenSettings};
use crate::destinations::Destinations;
use crate::edge::EdgeArguments;
use crate::footer::Footer;
use crate::mentions::Mentions;
use crate::new_site::NewSite;
use crate::openings::Openings;
use crate::reach::Reach;
use crate::rescue::Rescue;
use crate::rules::Rules;
use crate::serve::{Parts, Served};
use crate::survey::Survey;
use crate::{api, backup, serve};
use strelm_work::secrets::Secrets;
use strelm_work::{self, Tools, Worker};

#[derive(Debug, Parser)]
#[command(name = "strelm", version, about = "The workbench for the links between the pages of a site")]
struct Arguments {
    /// The file with the settings, instead of strelm.toml in this folder
    #[arg(long, global = true)]
    config: Option<PathBuf>,
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serve the interface and the API on loopback
    Serve {
        /// Instead of the setting “port”
        #[arg(long)]
        port: Option<u16>,
    },
    /// Work on what was ordered: readings and releases. Any number of workers may run
    Work,
    /// Look after the sites that Strelm knows
    #[command(subcommand)]
    Site(SiteCommand),
    /// Print every setting, what it means and where its value comes from
    Config,
    /// Write everything in the database to a file, in PostgreSQL's own format
    Backup { file: PathBuf },
    /// Fill an empty database from a backup
    Restore {
        file: PathBuf,
        /// Replace what is in the database
        #[arg(long)]
        replace: bool,
    },
    /// Read a folder of HTML without a database and print what is to be said of its links
    Survey(Survey),
    /// Read a folder of HTML without a database and print the openings of its pages
    Openings(Openings),
    /// Read a folder of HTML without a database and print which of its pages a reader can get to
    Reach(Reach),
    /// Read a folder of HTML without a database and print the fewest links that bring its pages within reach
    Rescue(Rescue),
    /// Read a table of auto-linking rules and a folder of HTML without a database: what the rules would link
    #[command(subcommand)]
    Rules(Rules),
    /// Read a folder of HTML without a database and print where it says something, linked or not
    Mentions(Mentions),
    /// Read a folder of HTML without a database and print what its links say, and what is wrong with that
    Anchors(Anchors),
    /// Read a folder of HTML without a database and print where its links lead beside its own pages
    Destinations(Destinations),
    /// Print what a row of links at the foot of every page of a folder of HTML would change, or put it there
    Footer(Footer),
    /// Pass a site's pages on to its readers, and put links into them on the way
    Edge(EdgeArguments),
    /// Print the description of the API
    Openapi,
}

#[derive(Debug, Subcommand)]
enum SiteCommand {
    /// Add a site and order its first reading; a site that is known already is left as it is
    Add(NewSite),
}

/// # Errors
/// Whatever keeps the command from doing its work, in words for whoever called it.
pub fn run() -> anyhow::Result<()> {
    let arguments = Arguments::parse();
    let written = || WrittenSettings::read(arguments.config.as_deref());
    match arguments.command {
        Command::Serve { port } => {
            let written = written()?;
            let config = written.check()?;
            log(&written);
            let port = port.unwrap_or(config.port);
            let listener = TcpListener::bind(("127.0.0.1", port))
                .with_context(|| format!("port {port} cannot be had; choose another with --port"))?;
            actix_web::rt::System::new().block_on(serve(config, listener))
        }
        Command::Work => {
            let written = written()?;
            let config = written.check()?;
            log(&written);
            let runtime = runtime()?;
            let result = runtime.block_on(work(config));
            // Jobs that were left to others must not keep the process.
            runtime.shutdown_background();
            result
        }
        Command::Site(SiteCommand::Add(new)) => {
            let config = written()?.check()?;
            runtime()?.block_on(async { new.add(&config, &open(&config).await?).await })
        }
        Command::Config => {
            let written = written()?;
            write!(std::io::stdout(), "{}", written.explain())?;
            written.check()?;
            Ok(())
        }
        Command::Backup { file } => backup::write(&written()?.check()?, &file),
        Command::Restore { file, replace } => {
            let config = written()?.check()?;
            backup::restore(&config, &file, replace)?;
            // A backup of an older version is brought up to date.
            runtime()?.block_on(open(&config)).map(|_| ())
        }
        Command::Edge(edge) => {
            let written = written()?;
            let config = written.check()?;
            log(&written);
            actix_web::rt::System::new().block_on(pass(config, edge))
        }
        Command::Survey(survey) => survey.run(),
        Command::Openings(openings) => openings.run(),
        Command::Reach(reach) => reach.run(),
        Command::Rescue(rescue) => rescue.run(),
        Command::Rules(rules) => rules.run(),
        Command::Mentions(mentions) => mentions.run(),
        Command::Anchors(anchors) => anchors.run(),
        Command::Destinations(destinations) => destinations.run(),
        Command::Footer(footer) => footer.run(),
        Command::Openapi => {
            writeln!(std::io::stdout(), "{}", api::document().to_pretty_json()?)?;
            Ok(())
        }
    }
}

fn log(written: &WrittenSettings) {
    let (is_json, filter) = written.log();
    let filter = tracing_subscriber::EnvFilter::new(filter);
    // A request is told when it is answered, with its number, its route and how long it took.
    let is_coloured = std::io::stderr().is_terminal() && std::env::var_os("NO_COLOR").is_none();
    let log = tracing_subscriber::fmt()
        .with_env_filter(filter)
        .with_span_events(FmtSpan::CLOSE)
        .with_ansi(is_coloured)
        .with_writer(std::io::stderr);
    if is_json { log.json().init() } else { log.init() }
}

fn runtime() -> std::io::Result<tokio::runtime::Runtime> {
    tokio::runtime::Runtime::new()
}

async fn open(config: &Config) -> anyhow::Result<PgPool> {
    let pool = connect(&config.database, config.connections).await;
    let pool = pool.context("is the database running, and is its address right?")?;
    prepare(&pool).await?;
    Ok(pool)
}

/// Serves until the process is asked to end; what is being answered is answered.
async fn serve(config: Config, listener: TcpListener) -> anyhow::Result<()> {
    let pool = open(&config).await?;
    tracing::info!(port = listener.local_addr()?.port(), "serving on loopback");
    let Served { server, events } = serve::server(Parts::new(pool.clone(), &config), listener, 2)?;
    let handle = server.handle();
    actix_web::rt::spawn(async move {
        asked_to_end().await;
        tracing::info!("ending");
        events.end();
        handle.stop(true).await;
    });
    server.await?;
    pool.close().await;
    Ok(())
}

/// Passes pages on until the process is asked to end; what is on its way arrives.
async fn pass(config: Config, arguments: EdgeArguments) -> anyhow::Result<()> {
    let pool = open(&config).await?;
    let edge = arguments.start(&config, pool.clone()).await?;
    tracing::info!(address = %edge.address, "passing pages on");
    let handle = edge.server.handle();
    actix_web::rt::spawn(async move {
        asked_to_end().await;
        tracing::info!("ending");
        handle.stop(true).await;
    });
    edge.run().await?;
    pool.close().await;
    Ok(())
}

async fn asked_to_end() {
    match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
        Ok(mut terminate) => {
            tokio::select! {
                _ = tokio::signal::ctrl_c() => {}
                _ = terminate.recv() => {}
            }
        }
        // Without the signal there is still the keyboard.
        Err(_) => drop(tokio::signal::ctrl_c().await),
    }
}

/// Brings the database up to date, our tables and the queue's.
///
/// # Errors
/// When the database refuses.
pub async fn prepare(pool: &PgPool) -> anyhow::Result<()> {
    migrate(pool).await?;
    strelm_work::set_up(pool).await?;
    Ok(())
}

async fn work(config: Config) -> anyhow::Result<()> {
    let pool = open(&config).await?;
    let tools = Tools {
        pool: pool.clone(),
        client: Client::new(config.networks.clone())?,
        secrets: Secrets::new(&config.secrets),
        folders: config.folders.clone(),
        patience: Patience::default(),
    };
    let (stop, stopped) = tokio::sync::watch::channel(false);
    tokio::spawn(async move {
        asked_to_end().await;
        let _ = stop.send(true);
    });
    tracing::info!("working");
    Worker { tools, at_once: config.jobs, shutdown: config.shutdown }.run(stopped).await;
    tracing::info!("ending");
    Ok(())
}
