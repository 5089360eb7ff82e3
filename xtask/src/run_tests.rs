//! All checks and tests, in the order in which they fail soonest.

use std::process::Command;

use crate::postgres::{Cluster, Durability};
use crate::process::{root, run_shown};
use crate::{setup, web};

pub fn run_cargo(arguments: &[&str]) -> anyhow::Result<()> {
    println!("cargo {}", arguments.join(" "));
    run_shown(Command::new("cargo").args(arguments).current_dir(root()))
}

pub fn run(arguments: &[String]) -> anyhow::Result<()> {
    setup::for_testing()?;
    web::build()?;
    if arguments.is_empty() {
        run_cargo(&["fmt", "--all", "--check"])?;
        web::check()?;
        run_cargo(&["clippy", "--quiet", "--workspace", "--all-targets", "--", "-D", "warnings"])?;
    }
    let cluster = Cluster::start("test", Durability::None)?;
    cluster.ensure_database("strelm")?;
    println!("cargo test --workspace {}", arguments.join(" "));
    run_process(&cluster, arguments)
}

fn run_process(cluster: &Cluster, arguments: &[String]) -> anyhow::Result<()> {
    let mut test = Command::new("cargo");
    test.args(["test", "--workspace"]).args(arguments).current_dir(root());
    run_shown(test.env("SQLX_OFFLINE", "true").env("DATABASE_URL", cluster.url("strelm")))
}
