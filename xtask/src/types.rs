//! Renewing what is generated and committed: the checked queries in `.sqlx`, the TypeScript types of the API.

use std::fs;
use std::process::Command;

use crate::postgres::{Cluster, Durability};
use crate::process::{output, root, run_shown};
use crate::{setup, web};

const DATABASE: &str = "strelm_types";

fn run_queries() -> anyhow::Result<()> {
    setup::for_running()?;
    let cluster = Cluster::start("test", Durability::None)?;
    cluster.psql("postgres", &["-c", &format!("drop database if exists {DATABASE}")])?;
    cluster.ensure_database(DATABASE)?;
    let mut migrations: Vec<_> = fs::read_dir(root().join("crates/store/migrations"))?.flatten().collect();
    migrations.sort_by_key(fs::DirEntry::file_name);
    for migration in migrations {
        cluster.psql(DATABASE, &["-f", &migration.path().to_string_lossy()])?;
    }
    let folder = root().join(".sqlx");
    let _ = fs::remove_dir_all(&folder);
    fs::create_dir_all(&folder)?;
    // The macros run again only when the crate is compiled again.
    output(Command::new("touch").arg(root().join("crates/store/src/lib.rs")))?;
    println!("checking the queries against a database");
    run_shown(
        Command::new("cargo")
            .args(["build", "--quiet", "--package", "strelm-store"])
            .current_dir(root())
            .env("SQLX_OFFLINE", "false")
            .env("SQLX_OFFLINE_DIR", &folder)
            .env("STRELM_SQLX_URL", cluster.url(DATABASE)),
    )
}

pub fn run() -> anyhow::Result<()> {
    run_queries()?;
    println!("describing the API");
    let document = output(
        Command::new("cargo")
            .args(["run", "--quiet", "--package", "strelm-server", "--", "openapi"])
            .current_dir(root()),
    )?;
    fs::write(root().join("web/src/api/openapi.json"), document)?;
    web::ensure_packages()?;
    output(&mut web::npm(&["run", "--silent", "types"])).map(|_| ())
}
