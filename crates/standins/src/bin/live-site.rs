//! The demo's live site as a program.

use std::path::PathBuf;
use std::time::Duration;

use clap::Parser;
use strelm_standins::live_site::{Options, start};

#[derive(Parser)]
#[command(about = "Plays an editor's live site on loopback")]
struct Arguments {
    /// A folder with `pages` and `media` from which the site starts; several are laid over each other
    #[arg(long, required = true)]
    seed: Vec<PathBuf>,
    /// Where the site keeps its state.
    #[arg(long)]
    state: PathBuf,
    #[arg(long, default_value_t = 0)]
    port: u16,
    /// The bearer token that Micropub asks for.
    #[arg(long, env = "LIVE_SITE_TOKEN")]
    token: String,
    /// How many milliseconds each answer takes, as on a small host far away
    #[arg(long, default_value_t = 0)]
    delay: u64,
}

fn main() -> anyhow::Result<()> {
    let Arguments { seed, state, port, token, delay } = Arguments::parse();
    let site = start(Options { seeds: seed, state, port, token, delay: Duration::from_millis(delay) })?;
    println!("live site: {}", site.entry());
    site.wait();
    Ok(())
}
