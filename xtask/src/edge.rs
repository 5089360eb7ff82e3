//! `cargo xtask bench edge`: pages of a manual through an edge, with rules and as they come. Writes docs/edge.md.

use std::fmt::Write as _;
use std::fs;
use std::process::Command;

use anyhow::Context;

use crate::postgres::{Cluster, Durability};
use crate::process::{output, root, run_shown, target};
use crate::{real, setup, web};

const MANUAL: &str = "django";

pub fn bench() -> anyhow::Result<()> {
    setup::for_running()?;
    web::build()?;
    let build = ["build", "--release", "--quiet", "-p", "strelm-server", "-p", "strelm-edge", "--bins"];
    run_shown(Command::new("cargo").args(build).current_dir(root()))?;
    let folder = real::folder_of(MANUAL)?;
    let cluster = Cluster::start("bench", Durability::None)?;
    cluster.psql("postgres", &["-c", "drop database if exists strelm_bench with (force)"])?;
    cluster.ensure_database("strelm_bench")?;
    let programs = target().join("release");
    let mut command = Command::new(programs.join("bench_edge"));
    command.arg(programs.join("strelm")).arg(folder).env("STRELM_DATABASE", cluster.url("strelm_bench"));
    let told = page(&output(&mut command)?)?;
    fs::write(root().join("docs/edge.md"), &told)?;
    println!("{told}");
    Ok(())
}

fn page(lines: &str) -> anyhow::Result<String> {
    let rows: Vec<Vec<&str>> = lines.lines().map(|line| line.split('\t').collect()).collect();
    let of = |what: &str| rows.iter().find(|row| row[0] == what).with_context(|| what.to_owned());
    let named = |what: &str, name: &str| -> anyhow::Result<f64> {
        let row = rows.iter().find(|row| row[0] == what && row[1] == name).with_context(|| what.to_owned())?;
        Ok(row[2].parse()?)
    };
    let (pages, links) = (of("pages")?, of("links")?);
    let size = pages[2].parse::<f64>()? / pages[1].parse::<f64>()? / 1e3;
    let mut page = format!(
        "# The edge, measured\n\n`cargo xtask bench edge` measures with the release build and writes this. {} pages of a manual \
         ({MANUAL}, {size:.0} kB each), {} rules out of their words, which put {} links into them. The site, eight readers and \
         the edge share one machine of two cores; each round asks for pages for four seconds, as they come and with rules in \
         turns.\n\n| round | as they come, MB/s | with rules, MB/s | share |\n|--:|--:|--:|--:|\n",
        pages[1], links[1], links[2]
    );
    let mut shares = Vec::new();
    for (at, row) in rows.iter().filter(|row| row[0] == "throughput").enumerate() {
        let (plain, ruled): (f64, f64) = (row[1].parse()?, row[2].parse()?);
        shares.push(ruled / plain * 100.0);
        writeln!(page, "| {} | {:.0} | {:.0} | {:.0} % |", at + 1, plain / 1e6, ruled / 1e6, ruled / plain * 100.0)?;
    }
    shares.sort_by(f64::total_cmp);
    let median = shares.get(shares.len() / 2).context("no round was measured")?;
    write!(
        page,
        "\nWanted: at least 60 % of the bytes of the same proxy without rules. The median is {median:.0} %.\n\n\
         | | as they come | with rules |\n|---|--:|--:|\n\
         | first piece of a page of which the rest does not come yet, median, ms | {:.2} | {:.2} |\n\
         | memory for each of 200 connections whose page is half way, kB | {:.0} | {:.0} |\n\n\
         A connection holds back what may yet become a sentence that carries a link (16 kB at most), the page as it came as long \
         as it is smaller than 1 MB, and what unpacks and packs it; what is known of pages takes 64 MB at most.\n",
        named("first byte", "plain")?,
        named("first byte", "ruled")?,
        named("connection", "plain")? / 1e3,
        named("connection", "ruled")? / 1e3,
    )?;
    Ok(page)
}
