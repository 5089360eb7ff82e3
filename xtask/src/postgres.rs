//! A PostgreSQL cluster of our own on loopback, on a free port, stopped when the command ends.

use std::fs;
use std::net::TcpListener;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, bail};

use crate::process::{output, root};

#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Durability {
    /// For data that must survive a crash.
    Safe,
    /// For tests: quick, and lost with the machine.
    None,
}

/// A running cluster.
pub struct Cluster {
    data: PathBuf,
    bin: PathBuf,
    port: u16,
    password: String,
}

impl Cluster {
    /// Starts the cluster called `name`, making it first when it is new. One that a crash left running is used.
    pub fn start(name: &str, durability: Durability) -> anyhow::Result<Self> {
        let bin = bin_folder()?;
        let home = home(name)?;
        let data = home.join("data");
        let password_file = home.join("password");
        if !data.join("PG_VERSION").exists() {
            let _ = fs::remove_dir_all(&data);
            let password = random_word()?;
            fs::write(&password_file, &password)?;
            fs::set_permissions(&password_file, fs::Permissions::from_mode(0o600))?;
            give_to_postgres(&home)?;
            println!("making a database in {}", data.display());
            let options = ["--username=strelm", "--auth=scram-sha-256", "-E", "UTF8", "--locale=C.UTF-8"];
            let pwfile = format!("--pwfile={}", password_file.display());
            output(as_postgres(&bin.join("initdb")).args(options).arg(pwfile).arg("-D").arg(&data))?;
        }
        let password = fs::read_to_string(&password_file).context("the database's password is missing")?;
        let mut cluster = Self { data, bin, port: 0, password };
        cluster.port = match cluster.running_port() {
            Some(port) => port,
            None => cluster.launch(&home, durability)?,
        };
        Ok(cluster)
    }

    pub fn url(&self, database: &str) -> String {
        format!("postgres://strelm:{}@127.0.0.1:{}/{database}", self.password, self.port)
    }

    /// Makes a database unless it is there.
    pub fn ensure_database(&self, database: &str) -> anyhow::Result<()> {
        let asked = format!("select 1 from pg_database where datname = '{database}'");
        if self.psql("postgres", &["-c", &asked])?.trim().is_empty() {
            self.psql("postgres", &["-c", &format!("create database {database}")])?;
        }
        Ok(())
    }

    /// Runs psql with arguments such as `-c QUERY` or `-f FILE` and gives its plain output.
    pub fn psql(&self, database: &str, arguments: &[&str]) -> anyhow::Result<String> {
        let quiet = ["-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-d"];
        output(Command::new(self.bin.join("psql")).args(quiet).arg(self.url(database)).args(arguments))
    }

    fn running_port(&self) -> Option<u16> {
        output(as_postgres(&self.bin.join("pg_ctl")).arg("status").arg("-D").arg(&self.data)).ok()?;
        // Fourth line of postmaster.pid, as PostgreSQL documents it.
        fs::read_to_string(self.data.join("postmaster.pid")).ok()?.lines().nth(3)?.trim().parse().ok()
    }

    fn launch(&self, home: &Path, durability: Durability) -> anyhow::Result<u16> {
        let port = TcpListener::bind(("127.0.0.1", 0))?.local_addr()?.port();
        let mut options = format!("-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' ");
        if durability == Durability::None {
            options.push_str("-c fsync=off -c synchronous_commit=off -c full_page_writes=off -c max_connections=200");
        }
        let mut start = as_postgres(&self.bin.join("pg_ctl"));
        start.arg("start").arg("-w").arg("-D").arg(&self.data).arg("-l").arg(home.join("log")).arg("-o").arg(options);
        output(&mut start).with_context(|| format!("see {}", home.join("log").display()))?;
        Ok(port)
    }
}

impl Drop for Cluster {
    fn drop(&mut self) {
        let mut stop = as_postgres(&self.bin.join("pg_ctl"));
        if let Err(error) = output(stop.args(["stop", "-m", "fast", "-D"]).arg(&self.data)) {
            eprintln!("the database could not be stopped: {error}");
        }
    }
}

fn bin_folder() -> anyhow::Result<PathBuf> {
    let versions = fs::read_dir("/usr/lib/postgresql").context("PostgreSQL is not installed")?;
    let mut found: Vec<_> = versions.flatten().map(|entry| entry.path().join("bin")).collect();
    found.retain(|bin| bin.join("initdb").exists());
    found.sort();
    found.pop().context("PostgreSQL is not installed")
}

fn is_root() -> bool {
    output(Command::new("id").arg("-u")).is_ok_and(|id| id.trim() == "0")
}

/// PostgreSQL refuses to run as root, so root runs it as the user `postgres`.
fn as_postgres(program: &Path) -> Command {
    let mut command = if is_root() {
        let mut command = Command::new("setpriv");
        command.args(["--reuid=postgres", "--regid=postgres", "--init-groups", "--reset-env", "--"]).arg(program);
        command
    } else {
        Command::new(program)
    };
    command.current_dir("/");
    command
}

/// `.strelm/NAME` of the checkout, or a folder under `/var/tmp` when the user `postgres` cannot get there.
fn home(name: &str) -> anyhow::Result<PathBuf> {
    let home = root().join(".strelm").join(format!("postgres-{name}"));
    fs::create_dir_all(&home)?;
    give_to_postgres(&home)?;
    if output(as_postgres(Path::new("/usr/bin/test")).arg("-w").arg(&home)).is_ok() {
        return Ok(home);
    }
    let checkout: String =
        root().to_string_lossy().chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let other = Path::new("/var/tmp").join(format!("strelm{checkout}-{name}"));
    fs::create_dir_all(&other)?;
    give_to_postgres(&other)?;
    println!("the database's user cannot reach {}, so its data is in {}", home.display(), other.display());
    Ok(other)
}

fn give_to_postgres(folder: &Path) -> anyhow::Result<()> {
    if is_root() {
        output(Command::new("chown").args(["-R", "postgres:postgres"]).arg(folder))?;
    }
    Ok(())
}

/// 32 hexadecimal digits of randomness.
pub fn random_word() -> anyhow::Result<String> {
    use std::io::Read;
    let mut bytes = [0; 16];
    fs::File::open("/dev/urandom")?.read_exact(&mut bytes)?;
    if bytes.iter().all(|byte| *byte == 0) {
        bail!("the system gave no randomness");
    }
    Ok(bytes.iter().map(|byte| format!("{byte:02x}")).collect())
}
