//! All checks and tests, in the order in which they fail soonest.

use std::process::Command;

use crate::postgres::{Cluster, Durability};
use crate::process::{root, run_shown, target};
use crate::{real, setup, web};

pub fn run_cargo(arguments: &[&str]) -> anyhow::Result<()> {
    println!("cargo {}", arguments.join(" "));
    run_shown(cargo().args(arguments))
}

/// Where nobody builds again and again, a build without the notes for the next one takes a fifth less time. Whoever has
/// such notes keeps them up to date.
fn cargo() -> Command {
    let mut cargo = Command::new("cargo");
    if !target().join("debug/incremental").exists() && std::env::var_os("CARGO_INCREMENTAL").is_none() {
        cargo.env("CARGO_INCREMENTAL", "0");
    }
    cargo.current_dir(root());
    cargo
}

pub fn run(arguments: &[String]) -> anyhow::Result<()> {
    setup::for_testing()?;
    let without_manuals = real::fetch_small().err();
    if let Some(error) = &without_manuals {
        println!("the tests on real manuals are left out, since these cannot be fetched: {error:#}");
    }
    web::build()?;
    if arguments.is_empty() {
        run_cargo(&["fmt", "--all", "--check"])?;
        web::check()?;
        run_cargo(&["clippy", "--quiet", "--workspace", "--all-targets", "--", "-D", "warnings"])?;
    }
    let cluster = Cluster::start("test", Durability::None)?;
    cluster.ensure_database("strelm")?;
    run_process(&cluster, arguments, without_manuals.is_some())
}

fn run_process(cluster: &Cluster, arguments: &[String], without_manuals: bool) -> anyhow::Result<()> {
    // `--workspace` beside a named package would run all of them.
    let names_packages =
        arguments.iter().any(|argument| argument.starts_with("-p") || argument.starts_with("--package"));
    let everything = if names_packages { &[][..] } else { &["--workspace"] };
    println!(
        "cargo test {}",
        [everything, &arguments.iter().map(String::as_str).collect::<Vec<_>>()].concat().join(" ")
    );
    let mut test = cargo();
    test.arg("test").args(everything).args(arguments);
    if without_manuals {
        test.env("STRELM_WITHOUT_MANUALS", "1");
    }
    run_shown(test.env("SQLX_OFFLINE", "true").env("DATABASE_URL", cluster.url("strelm")))
}
