//! Proof and measurements on the pages of a folder, by programs that are built for speed.

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::Context;

use crate::process::{root, run_shown, target};
use crate::{edge, reach, rules};

const ROUNDS: usize = 3;

/// Pages of the made-up sites on which openings are measured.
const SITES: [&str; 2] = ["10000", "100000"];

pub fn prove(folders: &[String]) -> anyhow::Result<()> {
    run_released("strelm-proof", "prove", folders)
}

pub fn bench(folders: &[String]) -> anyhow::Result<()> {
    if folders == ["reach"] {
        return reach::bench();
    }
    if folders == ["edge"] {
        return edge::bench();
    }
    if folders == ["rules"] {
        return rules::bench();
    }
    run_released("strelm-proof", "bench", folders)?;
    run_shown(
        Command::new("cargo")
            .args(["build", "--release", "-p", "strelm-server", "--bin", "strelm"])
            .current_dir(root()),
    )?;
    folders.iter().try_for_each(|folder| survey(Path::new(folder)))?;
    run_released("strelm-proof", "openings", &SITES.map(str::to_owned))
}

pub fn generate_site(arguments: &[String]) -> anyhow::Result<()> {
    run_released("strelm-proof", "generate_site", arguments)
}

fn run_released(package: &str, program: &str, arguments: &[String]) -> anyhow::Result<()> {
    let mut command = Command::new("cargo");
    command.args(["run", "--release", "--quiet", "-p", package, "--bin", program, "--"]).args(arguments);
    run_shown(&mut command)
}

/// A survey of the folder on one core and on two, and the memory that it takes.
fn survey(folder: &Path) -> anyhow::Result<()> {
    let program = target().join("release/strelm");
    let run = |threads: usize| -> anyhow::Result<Duration> {
        let mut best = Duration::MAX;
        for _ in 0..ROUNDS {
            let start = Instant::now();
            let mut command = Command::new(&program);
            command.arg("survey").arg(folder).arg("--json").env("RAYON_NUM_THREADS", threads.to_string());
            let status = command.stdout(Stdio::null()).status().context("the survey cannot be started")?;
            anyhow::ensure!(status.success(), "the survey of {} failed", folder.display());
            best = best.min(start.elapsed());
        }
        Ok(best)
    };
    let (one, two) = (run(1)?, run(2)?);
    println!("survey of {}", folder.display());
    println!(
        "  one thread {one:.2?}, two {two:.2?}: {:.2} times as fast (wanted 1.8)",
        one.as_secs_f64() / two.as_secs_f64()
    );
    Ok(())
}
