//! Everything at once, with demo data: the database, the stand-in for the live site, the server and a worker.

use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::PathBuf;
use std::process::Command;
use std::sync::mpsc::RecvTimeoutError;
use std::time::Duration;

use anyhow::{Context, bail};

use crate::postgres::{Cluster, Durability, random_word};
use crate::process::{Beside, end_signal, output, root, run_shown};
use crate::{setup, web};

const LIVE_SITE_PORT: u16 = 4871;

pub struct Options {
    pub fresh: bool,
    pub port: u16,
}

impl Options {
    pub fn parse(arguments: &[String]) -> anyhow::Result<Self> {
        let mut options = Self { fresh: false, port: 4870 };
        let mut rest = arguments.iter();
        while let Some(argument) = rest.next() {
            match argument.as_str() {
                "--fresh" => options.fresh = true,
                "--port" => {
                    let port = rest.next().context("--port needs a number")?;
                    options.port = port.parse().with_context(|| format!("“{port}” is not a port number"))?;
                }
                other => bail!("demo does not know “{other}”; it takes --fresh and --port N"),
            }
        }
        Ok(options)
    }
}

/// The demo while it runs.
pub struct Demo {
    // Dropped in this order: the programs before the database.
    programs: Vec<Beside>,
    _cluster: Cluster,
    pub address: String,
}

pub fn run(arguments: &[String]) -> anyhow::Result<()> {
    let options = Options::parse(arguments)?;
    let end = end_signal()?;
    setup::for_running()?;
    web::build()?;
    let mut demo = Demo::start(&options)?;
    println!("\n  Strelm is at {}\n  The live site of the demo is at http://127.0.0.1:{LIVE_SITE_PORT}/", demo.address);
    println!("  End it with Ctrl C; what you did is kept. `cargo xtask demo --fresh` starts from nothing.\n");
    demo.watch(&end)
}

impl Demo {
    pub fn start(options: &Options) -> anyhow::Result<Self> {
        println!("building the server");
        let packages = ["--package", "strelm-server", "--package", "strelm-standins"];
        run_shown(Command::new("cargo").args(["build", "--quiet"]).args(packages).current_dir(root()))?;
        let state = root().join(".strelm/demo");
        let cluster = Cluster::start("demo", Durability::Safe)?;
        if options.fresh {
            let _ = fs::remove_dir_all(&state);
            cluster.psql("postgres", &["-c", "drop database if exists strelm with (force)"])?;
        }
        cluster.ensure_database("strelm")?;
        fs::create_dir_all(&state)?;
        let token_file = state.join("live-site-token");
        if !token_file.exists() {
            fs::write(&token_file, random_word()?)?;
            fs::set_permissions(&token_file, fs::Permissions::from_mode(0o600))?;
        }
        let token = fs::read_to_string(&token_file)?;
        let live = format!("http://127.0.0.1:{LIVE_SITE_PORT}/");
        let mut demo = Self { programs: Vec::new(), _cluster: cluster, address: String::new() };
        demo.begin(
            "the live site",
            program("live-site").env("LIVE_SITE_TOKEN", token).args([
                "--seed".into(),
                root().join("demo"),
                "--state".into(),
                state.join("live-site"),
                "--port".into(),
                LIVE_SITE_PORT.to_string().into(),
                // Slow enough to see the site being read in.
                "--delay".into(),
                "250".into(),
            ]),
        )?;
        let url = demo._cluster.url("strelm");
        let strelm = || {
            let mut command = program("strelm");
            command.env("STRELM_DATABASE", &url).env("STRELM_SECRETS", state.join("secrets"));
            command
        };
        wait_for_port(LIVE_SITE_PORT, &mut demo)?;
        demo.begin("the server", strelm().args(["serve", "--port", &options.port.to_string()]))?;
        wait_for_port(options.port, &mut demo)?;
        demo.begin("the worker", strelm().arg("work"))?;
        let micropub = format!("{live}micropub");
        let name = "Larkmoor Sky Society";
        let add = ["site", "add", &live, "--name", name, "--micropub", &micropub, "--token-file"];
        print!("{}", output(strelm().args(add).arg(&token_file))?);
        demo.address = format!("http://127.0.0.1:{}/", options.port);
        Ok(demo)
    }

    pub fn begin(&mut self, name: &'static str, command: &mut Command) -> anyhow::Result<()> {
        self.programs.push(Beside::start(name, command)?);
        Ok(())
    }

    /// Waits for the order to end; fails when one of the programs ends before.
    pub fn watch(&mut self, end: &std::sync::mpsc::Receiver<()>) -> anyhow::Result<()> {
        while matches!(end.recv_timeout(Duration::from_millis(500)), Err(RecvTimeoutError::Timeout)) {
            self.check()?;
        }
        println!("ending");
        Ok(())
    }

    fn check(&mut self) -> anyhow::Result<()> {
        self.programs.iter_mut().try_for_each(Beside::check)
    }
}

fn program(name: &str) -> Command {
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from);
    Command::new(target.join("debug").join(name))
}

fn wait_for_port(port: u16, demo: &mut Demo) -> anyhow::Result<()> {
    for _ in 0..300 {
        demo.check()?;
        if std::net::TcpStream::connect(("127.0.0.1", port)).is_ok() {
            return Ok(());
        }
        std::thread::sleep(Duration::from_millis(100));
    }
    bail!("nothing answers on port {port} after half a minute")
}
