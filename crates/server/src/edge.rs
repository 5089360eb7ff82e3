//! Running an edge from the command line.

use std::net::{SocketAddr, TcpListener};
use std::sync::Arc;

use anyhow::{Context, bail};
use strelm_edge::{Edge, EdgeOptions};
use strelm_live::{LiveSites, Purpose};
use strelm_store::PgPool;
use strelm_store::site::{self, Site};
use url::Url;

use crate::config::Config;

/// Where an edge stands.
#[derive(Debug, clap::Args)]
pub struct EdgeArguments {
    /// The name of the site in Strelm, or its number
    #[arg(long)]
    site: String,
    /// Where the site itself answers, such as http://127.0.0.1:8080
    #[arg(long)]
    upstream: Url,
    /// The address at which readers ask, such as 127.0.0.1:8000
    #[arg(long)]
    listen: SocketAddr,
    /// The name under which the site is asked, instead of the one that the reader asked for
    #[arg(long)]
    host: Option<String>,
    /// Pass everything as it comes, whatever is set: to see what the site itself says
    #[arg(long)]
    as_it_is: bool,
    /// Threads that pass pages on
    #[arg(long, default_value_t = 2)]
    threads: usize,
}

impl EdgeArguments {
    /// Starts it. Must be called inside an Actix system.
    ///
    /// # Errors
    /// When there is no such site, or the address cannot be had.
    pub async fn start(self, config: &Config, pool: PgPool) -> anyhow::Result<Edge> {
        let site = named(&pool, &self.site).await?;
        let listener = TcpListener::bind(self.listen)
            .with_context(|| format!("{} cannot be had; choose another address with --listen", self.listen))?;
        let live = Arc::new(LiveSites::new(config.models_mb.saturating_mul(1024 * 1024), Purpose::Passing)?);
        let options = EdgeOptions {
            site,
            upstream: self.upstream,
            listener,
            host: self.host,
            threads: self.threads.clamp(1, 64),
            is_plain: self.as_it_is,
        };
        Ok(Edge::start(pool, live, options).await?)
    }
}

async fn named(pool: &PgPool, name: &str) -> anyhow::Result<Site> {
    let sites = site::all(pool).await?;
    let is_meant = |site: &&Site| site.settings.name == name || site.id.0.to_string() == name;
    let mut meant = sites.iter().filter(is_meant);
    match (meant.next(), meant.next()) {
        (Some(site), None) => Ok(site.clone()),
        (Some(_), Some(_)) => {
            bail!("several sites are called “{name}”; say which by its number, which stands in its address")
        }
        (None, _) => {
            let names: Vec<_> = sites.iter().map(|site| format!("{} ({})", site.settings.name, site.id.0)).collect();
            bail!("there is no site “{name}”; there are: {}", names.join(", "))
        }
    }
}
