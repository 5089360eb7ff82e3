//! Everything at once, with demo data: the database, the stand-in for the live site, the server and a worker.

use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::mpsc::{Receiver, RecvTimeoutError};
use std::time::Duration;

use anyhow::{Context, bail};

use crate::postgres::{Cluster, Durability, random_word};
use crate::process::{Beside, end_signal, output, root, run_shown, target};
use crate::{setup, web};

const LIVE_SITE_PORT: u16 = 4871;
/// What the live site is called.
const DEMO_SITE: &str = "Larkmoor Sky Society";
/// Where the live site's readers get its pages with their links.
const EDGE_PORT: u16 = 4872;

struct Options {
    fresh: bool,
    port: u16,
    /// A site of one's own beside those of the demo.
    own: Option<OwnSite>,
}

/// A site that whoever tries Strelm brings along.
struct OwnSite {
    name: String,
    place: Place,
    /// Whether the files of a folder may be changed.
    writes: bool,
}

enum Place {
    Folder(PathBuf),
    Archive(PathBuf),
    Address(String),
}

impl OwnSite {
    fn of(text: &str) -> anyhow::Result<Self> {
        let path = Path::new(text);
        let name = |path: &Path| path.file_name().map_or(text.to_owned(), |name| name.to_string_lossy().into_owned());
        let (name, place) = match path.canonicalize() {
            Ok(real) if real.is_dir() => (name(&real), Place::Folder(real)),
            Ok(real) => (name(&real), Place::Archive(real)),
            Err(_) if text.starts_with(['/', '.']) => bail!("there is no folder or file {text}"),
            Err(_) => {
                let address = if text.contains("://") { text.to_owned() } else { format!("https://{text}") };
                let rest = address.split_once("://").map_or("", |(_, rest)| rest);
                let host = rest.split('/').next().unwrap_or_default();
                if !host.contains(['.', ':']) {
                    bail!("“{text}” is neither a folder, nor a file, nor an address such as www.example.org");
                }
                (host.to_owned(), Place::Address(address))
            }
        };
        Ok(Self { name, place, writes: false })
    }
}

impl Options {
    fn parse(arguments: &[String]) -> anyhow::Result<Self> {
        let mut options = Self { fresh: false, port: 4870, own: None };
        let mut writes = false;
        let mut rest = arguments.iter();
        while let Some(argument) = rest.next() {
            match argument.as_str() {
                "--fresh" => options.fresh = true,
                "--port" => {
                    let port = rest.next().context("--port needs a number")?;
                    options.port = port.parse().with_context(|| format!("“{port}” is not a port number"))?;
                }
                "--site" => {
                    let place = rest.next().context("--site needs a folder, an address or an archive")?;
                    options.own = Some(OwnSite::of(place)?);
                }
                "--write" => writes = true,
                other => bail!("demo does not know “{other}”; it takes --fresh, --port N, --site PLACE and --write"),
            }
        }
        match &mut options.own {
            Some(own) => own.writes = writes,
            None if writes => bail!("--write is for a folder of your own: name it with --site"),
            None => {}
        }
        Ok(options)
    }
}

/// Installs and builds what is missing and starts the demo; the second value tells when it is to end.
pub fn open(arguments: &[String]) -> anyhow::Result<(Demo, Receiver<()>)> {
    let options = Options::parse(arguments)?;
    let end = end_signal()?;
    setup::for_running()?;
    web::build()?;
    Ok((Demo::start(&options)?, end))
}

/// The demo while it runs.
pub struct Demo {
    // Dropped in this order: what uses the database before the database.
    strelm: Vec<Beside>,
    others: Vec<Beside>,
    cluster: Cluster,
    state: PathBuf,
    port: u16,
    pub address: String,
    /// Folders that may be read, with `:` between them.
    folders: String,
    /// Where the site that somebody brought along is shown.
    own: Option<(String, String)>,
}

pub fn run(arguments: &[String]) -> anyhow::Result<()> {
    let (mut demo, end) = open(arguments)?;
    println!("\n  Strelm is at {}\n  The live site of the demo is at http://127.0.0.1:{LIVE_SITE_PORT}/", demo.address);
    println!("  Through an edge, with the links of rules, it is at http://127.0.0.1:{EDGE_PORT}/");
    if let Some((name, address)) = &demo.own {
        println!("  {name} is at {address}");
    }
    println!("  End it with Ctrl C; what you did is kept. `cargo xtask demo --fresh` starts from nothing.\n");
    demo.watch(&end, |_| Ok(()))
}

impl Demo {
    fn start(options: &Options) -> anyhow::Result<Self> {
        for port in [LIVE_SITE_PORT, EDGE_PORT, options.port] {
            if std::net::TcpStream::connect(("127.0.0.1", port)).is_ok() {
                bail!("port {port} is taken; does another demo run? End it first, or choose another port with --port");
            }
        }
        build()?;
        let state = root().join(".strelm/demo");
        let cluster = Cluster::start("demo", Durability::Safe)?;
        if options.fresh {
            let _ = fs::remove_dir_all(&state);
            cluster.psql("postgres", &["-c", "drop database if exists strelm with (force)"])?;
        }
        cluster.ensure_database("strelm")?;
        fs::create_dir_all(&state)?;
        let address = format!("http://127.0.0.1:{}/", options.port);
        let (strelm, others) = (Vec::new(), Vec::new());
        let mut folders = state.display().to_string();
        if let Some(OwnSite { place: Place::Folder(path), .. }) = &options.own {
            folders = format!("{folders}:{}", path.display());
        }
        let mut demo = Self { strelm, others, cluster, state, port: options.port, address, folders, own: None };
        demo.start_live_site()?;
        demo.start_strelm()?;
        demo.add_site()?;
        demo.start_edge()?;
        if let Some(own) = &options.own {
            demo.add_own(own)?;
        }
        Ok(demo)
    }

    /// Starts a program that ends with the demo.
    pub fn begin(&mut self, name: &'static str, command: &mut Command) -> anyhow::Result<()> {
        self.others.push(Beside::start(name, command)?);
        Ok(())
    }

    /// Builds the server anew and lets it take the place of the one that runs, unless it does not compile.
    pub fn renew(&mut self) -> anyhow::Result<()> {
        if let Err(error) = build() {
            eprintln!("{error}");
            return Ok(());
        }
        self.strelm.clear();
        self.start_strelm()
    }

    fn start_live_site(&mut self) -> anyhow::Result<()> {
        let token = fs::read_to_string(self.token_file()?)?;
        let (seed, state) = (root().join("demo"), self.state.join("live-site"));
        let mut command = program("live-site");
        command.env("LIVE_SITE_TOKEN", token).arg("--seed").arg(&seed).arg("--seed").arg(seed.join("more"));
        command.arg("--state").arg(state);
        // Slow enough to see the site being read in.
        command.args(["--port", &LIVE_SITE_PORT.to_string(), "--delay", "250"]);
        self.begin("the live site", &mut command)?;
        wait_for_port(LIVE_SITE_PORT, self)
    }

    fn start_strelm(&mut self) -> anyhow::Result<()> {
        let port = self.port.to_string();
        let server = Beside::start("the server", self.strelm().args(["serve", "--port", &port]))?;
        self.strelm.push(server);
        wait_for_port(self.port, self)?;
        self.strelm.push(Beside::start("the worker", self.strelm().arg("work"))?);
        Ok(())
    }

    fn start_edge(&mut self) -> anyhow::Result<()> {
        let (upstream, listen) = (format!("http://127.0.0.1:{LIVE_SITE_PORT}/"), format!("127.0.0.1:{EDGE_PORT}"));
        let mut command = self.strelm();
        command.args(["edge", "--site", DEMO_SITE, "--upstream", &upstream, "--listen", &listen]);
        self.begin("the edge", &mut command)?;
        wait_for_port(EDGE_PORT, self)
    }

    fn add_site(&self) -> anyhow::Result<()> {
        let live = format!("http://127.0.0.1:{LIVE_SITE_PORT}/");
        let micropub = format!("{live}micropub");
        let mut command = self.strelm();
        command.args(["site", "add", &live, "--name", DEMO_SITE, "--micropub", &micropub]);
        print!("{}", output(command.arg("--token-file").arg(self.token_file()?))?);
        // The folder is edited when its links are released, so the demo works on a copy.
        let notes = self.state.join("field-notes");
        if !notes.exists() {
            output(Command::new("cp").arg("-R").arg(root().join("demo/field-notes")).arg(&notes))?;
        }
        let mut command = self.strelm();
        command.args(["site", "add", "http://notes.larkmoor.example/", "--name", "Larkmoor field notes"]);
        print!("{}", output(command.arg("--folder").arg(&notes))?);
        Ok(())
    }

    fn add_own(&mut self, own: &OwnSite) -> anyhow::Result<()> {
        let mut command = self.strelm();
        command.args(["site", "add", "--name", &own.name]);
        match &own.place {
            Place::Folder(path) => command.arg("--folder").arg(path),
            Place::Archive(path) => command.arg("--archive").arg(path),
            Place::Address(address) => command.arg(address),
        };
        if !own.writes {
            command.args(["--read-only"].iter().filter(|_| matches!(own.place, Place::Folder(_))));
        }
        let told = output(&mut command)?;
        print!("{told}");
        let number: String =
            told.rsplit("site ").next().unwrap_or_default().chars().take_while(char::is_ascii_digit).collect();
        self.own = Some((own.name.clone(), format!("{}{number}", self.address)));
        Ok(())
    }

    fn strelm(&self) -> Command {
        let mut command = program("strelm");
        command.env("STRELM_DATABASE", self.cluster.url("strelm")).env("STRELM_SECRETS", self.state.join("secrets"));
        // The live site is on this machine, and the field notes are a folder.
        command.env("STRELM_LOG", "text,warn,strelm_server=info");
        command.env("STRELM_ALLOW_NETWORKS", "loopback").env("STRELM_FOLDERS", &self.folders);
        command.env("STRELM_UPLOADS", self.state.join("uploads"));
        command
    }

    /// The file with the live site's token, made when it is not there.
    fn token_file(&self) -> anyhow::Result<PathBuf> {
        let file = self.state.join("live-site-token");
        if !file.exists() {
            fs::write(&file, random_word()?)?;
            fs::set_permissions(&file, fs::Permissions::from_mode(0o600))?;
        }
        Ok(file)
    }

    /// Waits for the order to end, twice a second doing something else; fails when one of the programs ends before.
    pub fn watch(
        &mut self,
        end: &Receiver<()>,
        mut meanwhile: impl FnMut(&mut Self) -> anyhow::Result<()>,
    ) -> anyhow::Result<()> {
        while matches!(end.recv_timeout(Duration::from_millis(500)), Err(RecvTimeoutError::Timeout)) {
            self.check()?;
            meanwhile(self)?;
        }
        println!("ending");
        Ok(())
    }

    fn check(&mut self) -> anyhow::Result<()> {
        self.strelm.iter_mut().chain(&mut self.others).try_for_each(Beside::check)
    }
}

fn build() -> anyhow::Result<()> {
    println!("building the server");
    let packages = ["--package", "strelm-server", "--package", "strelm-standins"];
    run_shown(Command::new("cargo").args(["build", "--quiet"]).args(packages).current_dir(root()))
}

fn program(name: &str) -> Command {
    // Ends with us, even when we are killed.
    let mut command = Command::new("setpriv");
    command.args(["--pdeathsig", "TERM", "--"]).arg(target().join("debug").join(name));
    command
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
