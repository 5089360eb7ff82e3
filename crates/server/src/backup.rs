//! Backups: PostgreSQL's own dump of everything, and filling a database from one.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use anyhow::{Context, bail};
use url::Url;

use crate::config::Config;

/// Writes a dump beside the file first, so that a broken one never takes its name. What can be found out again is left
/// out of it.
///
/// # Errors
/// When PostgreSQL's program is missing or fails.
pub fn write(config: &Config, file: &Path) -> anyhow::Result<()> {
    let part = file.with_extension("part");
    let mut command = program("pg_dump", config)?;
    command.args(["--format=custom", "--no-owner", "--no-privileges", "--exclude-table-data=looked_page", "--file"]);
    command.arg(&part);
    run(&mut command, "pg_dump")?;
    std::fs::rename(&part, file).with_context(|| format!("{} cannot be written", file.display()))?;
    println!("wrote {}", file.display());
    println!("Not in it are the tokens of editing interfaces and the files that editors sent.");
    println!("Keep copies of {} and {} as well.", config.secrets.display(), config.folders.uploads.display());
    Ok(())
}

/// Fills the database in one transaction: all of it, or nothing changes.
///
/// # Errors
/// When there are sites in the database and they are not to be replaced, or PostgreSQL's program fails.
pub fn restore(config: &Config, file: &Path, replace: bool) -> anyhow::Result<()> {
    if !file.is_file() {
        bail!("there is no file {}", file.display());
    }
    if !replace && has_sites(config)? {
        bail!("the database has sites in it; name an empty one, or give --replace to lose them");
    }
    let mut command = program("pg_restore", config)?;
    let options =
        ["--single-transaction", "--clean", "--if-exists", "--no-owner", "--no-privileges", "--exit-on-error"];
    command.args(options).arg(file);
    run(&mut command, "pg_restore")?;
    println!("restored {}", file.display());
    Ok(())
}

fn has_sites(config: &Config) -> anyhow::Result<bool> {
    let mut command = program("psql", config)?;
    command.args(["-X", "-A", "-t", "-c", "select to_regclass('public.site') is not null"]);
    if output(&mut command, "psql")?.trim() != "t" {
        return Ok(false);
    }
    let mut command = program("psql", config)?;
    command.args(["-X", "-A", "-t", "-c", "select exists (select from site)"]);
    Ok(output(&mut command, "psql")?.trim() == "t")
}

/// One of PostgreSQL's programs, told where the database is. The password goes through the environment, where other
/// users of the machine do not see it.
fn program(name: &str, config: &Config) -> anyhow::Result<Command> {
    let mut address = Url::parse(&config.database).context("the setting “database” is not an address")?;
    let password = address
        .password()
        .map(|password| percent_encoding::percent_decode_str(password).decode_utf8_lossy().into_owned());
    let _ = address.set_password(None);
    // Of what may follow the name PostgreSQL's programs know only some.
    let known = |name: &str| ["sslmode", "sslrootcert", "sslcert", "sslkey", "host", "port"].contains(&name);
    let options: Vec<_> =
        address.query_pairs().filter(|(name, _)| known(name)).map(|(n, v)| (n.into_owned(), v.into_owned())).collect();
    address.set_query(None);
    if !options.is_empty() {
        address.query_pairs_mut().extend_pairs(options);
    }
    let mut command = Command::new(find(name)?);
    command.arg("--dbname").arg(address.as_str()).stdin(Stdio::null());
    if let Some(password) = password {
        command.env("PGPASSWORD", password);
    }
    Ok(command)
}

/// Debian keeps the programs of each version in a folder of its own; the newest also reads what older ones wrote.
fn find(name: &str) -> anyhow::Result<PathBuf> {
    let versions = std::fs::read_dir("/usr/lib/postgresql").into_iter().flatten().flatten();
    let mut found: Vec<_> =
        versions.map(|version| version.path().join("bin").join(name)).filter(|file| file.exists()).collect();
    found.sort();
    let on_path = std::env::var_os("PATH")
        .and_then(|path| std::env::split_paths(&path).map(|folder| folder.join(name)).find(|file| file.exists()));
    found
        .pop()
        .or(on_path)
        .with_context(|| format!("{name} is not installed; it comes with PostgreSQL's client programs"))
}

fn run(command: &mut Command, name: &str) -> anyhow::Result<()> {
    output(command, name).map(|_| ())
}

fn output(command: &mut Command, name: &str) -> anyhow::Result<String> {
    let output = command.output().with_context(|| format!("{name} cannot be run"))?;
    if !output.status.success() {
        bail!("{name} failed: {}", String::from_utf8_lossy(&output.stderr).trim());
    }
    Ok(String::from_utf8_lossy(&output.stdout).into_owned())
}
