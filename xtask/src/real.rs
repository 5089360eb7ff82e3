//! `cargo xtask real`: documentation of many makers and languages from Debian's packages, read as an editor would have it
//! read, all in one database.

use std::fmt::Write as _;
use std::fs;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, bail};

use crate::postgres::{Cluster, Durability};
use crate::process::{output, root, run_shown, target};
use crate::{setup, web};

/// A site in a package: its folder, who or what made it, and its language.
struct RealSite {
    name: &'static str,
    package: &'static str,
    folder: &'static str,
    maker: &'static str,
    language: &'static str,
}

const fn site(
    name: &'static str,
    package: &'static str,
    folder: &'static str,
    maker: &'static str,
    language: &'static str,
) -> RealSite {
    RealSite { name, package, folder, maker, language }
}

const DOC: &str = "usr/share/doc/";

/// The first are small, and stand in the tests.
const SITES: [RealSite; 27] = [
    site("policy", "debian-policy", "debian-policy/policy.html", "Sphinx", "en"),
    site("aptitude-ja", "aptitude-doc-ja", "aptitude/html/ja", "DocBook", "ja"),
    site("npm", "npm", "npm", "Markdown", "en"),
    site("node", "nodejs-doc", "nodejs/api", "a tool of its own", "en"),
    site("mkdocs", "mkdocs-doc", "mkdocs/html", "MkDocs", "en"),
    site("postfix", "postfix-doc", "postfix/html", "by hand, from manual pages", "en"),
    site("exim", "exim4-doc-html", "exim4-doc-html/spec_html", "a tool of its own", "en"),
    site("zsh", "zsh-doc", "zsh-common/html", "Texinfo", "en"),
    site("maxima", "maxima-doc", "maxima-doc/html", "Texinfo", "en, de, es, pt"),
    site("slony", "slony1-2-doc", "slony1-2-doc/adminguide", "DocBook", "en"),
    site("git", "git-doc", "git-doc", "AsciiDoc", "en"),
    site("python-markdown", "python-markdown-doc", "python-markdown-doc/docs", "a tool of its own", "en"),
    site("sqlite", "sqlite3-doc", "sqlite3", "by hand and scripts", "en"),
    site("sphinx", "sphinx-doc", "sphinx-doc/html", "Sphinx", "en"),
    site("django", "python-django-doc", "python-django-doc/html", "Sphinx", "en"),
    site("python", "python3.11-doc", "python3.11/html", "Sphinx", "en"),
    site("postgresql", "postgresql-doc-15", "postgresql-doc-15/html", "DocBook", "en"),
    site("gnucash", "gnucash-docs", "gnucash-docs/gnucash-guide-de", "DocBook", "de"),
    site("gimp-ja", "gimp-help-ja", "../gimp/2.0/help/ja", "DocBook", "ja"),
    site("gimp-ko", "gimp-help-ko", "../gimp/2.0/help/ko", "DocBook", "ko"),
    site("grass", "grass-doc", "grass-doc/html", "scripts", "en"),
    site("lilypond-es", "lilypond-doc-html-es", "lilypond/html/Documentation/notation", "Texinfo", "es"),
    site("handbook-ar", "debian-handbook", "debian-handbook/html/ar-MA", "DocBook", "ar"),
    site("apache", "apache2-doc", "apache2-doc/manual", "XSLT of its own", "nine"),
    site("octave", "octave-doc", "octave/octave.html", "Texinfo", "en"),
    site("cmake", "cmake-doc", "cmake-data/html", "Sphinx", "en"),
    site("free-pascal", "fp-docs-3.2.2", "fp-docs/3.2.2", "TeX4ht and fpdoc", "en"),
];

/// How many of them stand in the tests.
const SMALL: usize = 4;

/// Sites that are crawled as well, from a plain web server.
const CRAWLED: [&str; 5] = ["policy", "aptitude-ja", "postfix", "sqlite", "zsh"];

const PORT: u16 = 4890;

impl RealSite {
    fn path(&self) -> PathBuf {
        home().join("sites").join(self.package).join(DOC).join(self.folder)
    }

    /// Fetches and unpacks the package unless it is there.
    fn fetch(&self) -> anyhow::Result<()> {
        let into = home().join("sites").join(self.package);
        if into.exists() {
            return Ok(());
        }
        let packages = home().join("packages");
        fs::create_dir_all(&packages)?;
        println!("fetching {}", self.package);
        let download =
            || output(Command::new("apt-get").args(["download", "-qq", self.package]).current_dir(&packages));
        if download().is_err() {
            // A fresh machine knows of no packages yet.
            setup::update()?;
            download()?;
        }
        let is_it = |path: &PathBuf| {
            let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            name.starts_with(&format!("{}_", self.package))
        };
        let file = fs::read_dir(&packages)?.flatten().map(|entry| entry.path()).find(is_it);
        let file = file.with_context(|| format!("{} was not fetched", self.package))?;
        // Only a whole one gets its name.
        let part = into.with_extension("part");
        let _ = fs::remove_dir_all(&part);
        fs::create_dir_all(&part)?;
        output(Command::new("dpkg").arg("-x").arg(&file).arg(&part))?;
        fs::rename(&part, &into)?;
        fs::remove_file(&file)?;
        Ok(())
    }
}

/// The folder of a manual by its name, fetched unless it is there.
pub fn folder_of(name: &str) -> anyhow::Result<PathBuf> {
    let site = SITES.iter().find(|site| site.name == name).with_context(|| format!("there is no manual {name}"))?;
    site.fetch()?;
    Ok(site.path())
}

fn home() -> PathBuf {
    root().join(".strelm/real")
}

/// Fetches the sites that stand in the tests.
pub fn fetch_small() -> anyhow::Result<()> {
    SITES.iter().take(SMALL).try_for_each(RealSite::fetch)
}

/// Reads all sites and writes docs/real-sites.md.
pub fn run() -> anyhow::Result<()> {
    setup::for_running()?;
    web::build()?;
    run_shown(
        Command::new("cargo").args(["build", "--release", "--quiet", "-p", "strelm-server"]).current_dir(root()),
    )?;
    SITES.iter().try_for_each(RealSite::fetch)?;
    let cluster = Cluster::start("real", Durability::Safe)?;
    cluster.psql("postgres", &["-c", "drop database if exists strelm_real with (force)"])?;
    cluster.ensure_database("strelm_real")?;
    let bench = Bench::start(cluster)?;
    let mut rows = String::new();
    let generated = home().join("sites/generated");
    generate(&generated)?;
    let measured =
        bench.read("generated", &["--folder", &generated.display().to_string(), "--read-only"], &generated)?;
    println!("{measured}");
    writeln!(rows, "| generated, to compare | made up, with menus and torn markup, en | folder {measured}")?;
    for site in &SITES {
        let measured =
            bench.read(site.name, &["--folder", &site.path().display().to_string(), "--read-only"], &site.path())?;
        println!("{measured}");
        writeln!(rows, "| {} | {}, {} | folder {measured}", site.name, site.maker, site.language)?;
    }
    for name in CRAWLED {
        let site = SITES.iter().find(|site| site.name == name).context("a crawled site is one of all")?;
        // Each crawled site has a host of its own: all of 127.0.0.0/8 is this machine.
        let host = CRAWLED.iter().position(|other| *other == name).unwrap_or_default() + 2;
        let mut server = Command::new("python3");
        server.args(["-m", "http.server", "--bind", &format!("127.0.0.{host}"), "4892"]).current_dir(site.path());
        let _server = Running::start(server.stdout(Stdio::null()).stderr(Stdio::null()))?;
        std::thread::sleep(Duration::from_secs(1));
        let address = format!("http://127.0.0.{host}:4892/");
        let measured = bench.read(&format!("{name} crawled"), &[&address], &site.path())?;
        println!("{measured}");
        writeln!(rows, "| {name} | {}, {} | crawled {measured}", site.maker, site.language)?;
    }
    let memory = format!("The server's peak was {} MB, the worker's {} MB.", bench.server.peak(), bench.worker.peak());
    write_table(&rows, &memory)
}

/// Pages of the site that the others are compared with.
const GENERATED: &str = "3000";

fn generate(folder: &Path) -> anyhow::Result<()> {
    if folder.exists() {
        return Ok(());
    }
    let mut command = Command::new("cargo");
    command.args(["run", "--release", "--quiet", "-p", "strelm-proof", "--bin", "generate_site", "--"]);
    run_shown(command.arg(folder).args([GENERATED, "--lifelike"]).current_dir(root()))
}

const HEAD: &str = "# Sites that nobody prepared

Manuals from Debian's packages, of different makers and languages, read as folders one after the other into one database,
and five of them once more from a plain web server. Seconds are those of the whole reading, with what it learns; openings
are those that stand on a page, whatever their fit. A link is broken when it leads to an address of the site at which there
is nothing: in packages often to what Debian leaves out or packs. `cargo xtask real` fetches the packages, measures with the
release build, and writes this.

| site | maker, language | read as | pages | MB | s | s per MB | broken links | unreachable | titles > 3 times | openings a page |
|---|---|---|--:|--:|--:|--:|--:|--:|--:|--:|
";

fn write_table(rows: &str, memory: &str) -> anyhow::Result<()> {
    fs::write(root().join("docs/real-sites.md"), format!("{HEAD}{rows}\n{memory}\n"))?;
    println!("{memory}\nwritten to docs/real-sites.md");
    Ok(())
}

/// A program that ends with us.
struct Running(Child);

impl Running {
    fn start(command: &mut Command) -> anyhow::Result<Self> {
        Ok(Self(command.spawn()?))
    }

    /// Its largest memory so far, in MB.
    fn peak(&self) -> u64 {
        let status = fs::read_to_string(format!("/proc/{}/status", self.0.id())).unwrap_or_default();
        let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:")).unwrap_or_default();
        line.split_whitespace().next().and_then(|kb| kb.parse::<u64>().ok()).unwrap_or_default() / 1024
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

struct Bench {
    server: Running,
    worker: Running,
    // Dropped last.
    cluster: Cluster,
}

impl Bench {
    fn start(cluster: Cluster) -> anyhow::Result<Self> {
        let server = Running::start(strelm(&cluster).args(["serve", "--port", &PORT.to_string()]))?;
        wait_for(PORT)?;
        let worker = Running::start(strelm(&cluster).arg("work"))?;
        Ok(Self { server, worker, cluster })
    }

    /// Adds a site, waits until it is read, and gives its columns of the table.
    fn read(&self, name: &str, place: &[&str], folder: &Path) -> anyhow::Result<String> {
        let told = output(strelm(&self.cluster).args(["site", "add", "--name", name]).args(place))?;
        let id: i64 =
            told.rsplit("site ").next().unwrap_or_default().split(';').next().unwrap_or_default().trim().parse()?;
        let begin = Instant::now();
        let state = format!("select state from reading where site_id = {id} order by id desc limit 1");
        loop {
            match self.ask(&state)?.as_str() {
                "waiting" | "running" => std::thread::sleep(Duration::from_millis(200)),
                "done" => break,
                other => bail!("the reading of {name} is {other}"),
            }
            if begin.elapsed() > Duration::from_secs(3600) {
                bail!("the reading of {name} does not end");
            }
        }
        let seconds: f64 = self
            .ask(&format!("select extract(epoch from finished_at - created_at) from reading where site_id = {id} order by id desc limit 1"))?
            .parse()?;
        let pages = self
            .number(&format!("select count(*) from page where site_id = {id} and gone is null and kind <> 'file'"))?;
        let bytes = bytes_of_pages(folder) as f64 / 1e6;
        let broken = self.number(&format!(
            "select count(*) from link join dead_address d on d.site_id = link.site_id and d.address = to_address
             where link.site_id = {id}"
        ))?;
        let links = self.number(&format!(
            "select count(*) from link join site on site.id = site_id where site_id = {id}
             and to_address like left(entry, length(entry) - 1) || '%'"
        ))?;
        let titles = self.number(&format!(
            "select count(*) from (select from page where site_id = {id} and gone is null and kind <> 'file'
             group by title having count(*) > 3) as t"
        ))?;
        let status = get_when_ready(&format!("/api/sites/{id}"))?;
        let unreachable = number_in(&status, "\"unreachable\":");
        while number_in(&get_when_ready(&format!("/api/sites/{id}"))?, "\"openings_waiting\":") > 0 {
            std::thread::sleep(Duration::from_millis(300));
        }
        let openings = get_when_ready(&format!("/api/sites/{id}/pages/export?format=jsonl&columns=openings_out"))?;
        let openings: i64 = openings.lines().map(|line| number_in(line, "\"Openings out\":")).sum();
        Ok(format!(
            "| {pages} | {bytes:.1} | {seconds:.1} | {:.2} | {:.1} % | {unreachable} | {titles} | {:.1} |",
            seconds / bytes.max(0.01),
            100.0 * broken as f64 / links.max(1) as f64,
            openings as f64 / pages.max(1) as f64,
        ))
    }

    fn ask(&self, query: &str) -> anyhow::Result<String> {
        Ok(self.cluster.psql("strelm_real", &["-c", query])?.trim().to_owned())
    }

    fn number(&self, query: &str) -> anyhow::Result<i64> {
        Ok(self.ask(query)?.parse()?)
    }
}

fn strelm(cluster: &Cluster) -> Command {
    let mut command = Command::new(target().join("release/strelm"));
    command
        .env("STRELM_DATABASE", cluster.url("strelm_real"))
        .env("STRELM_SECRETS", home().join("secrets"))
        .env("STRELM_UPLOADS", home().join("uploads"))
        .env("STRELM_FOLDERS", home().join("sites"))
        .env("STRELM_ALLOW_NETWORKS", "loopback")
        .env("STRELM_LOG", "text,warn");
    command
}

fn wait_for(port: u16) -> anyhow::Result<()> {
    for _ in 0..300 {
        if TcpStream::connect(("127.0.0.1", port)).is_ok() {
            return Ok(());
        }
        std::thread::sleep(Duration::from_millis(100));
    }
    bail!("nothing answers on port {port}")
}

/// What the server answers, once the model of the site is ready.
fn get_when_ready(path: &str) -> anyhow::Result<String> {
    let mut stream = TcpStream::connect(("127.0.0.1", PORT))?;
    write!(stream, "GET {path} HTTP/1.0\r\nHost: 127.0.0.1:{PORT}\r\n\r\n")?;
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer)?;
    let answer = String::from_utf8_lossy(&answer).into_owned();
    let (head, body) = answer.split_once("\r\n\r\n").context("the server gave no answer")?;
    if !head.contains(" 200 ") {
        bail!("{path}: {}", head.lines().next().unwrap_or_default());
    }
    Ok(body.to_owned())
}

fn number_in(json: &str, key: &str) -> i64 {
    let rest = json.split(key).nth(1).unwrap_or_default();
    let digits: String = rest.chars().take_while(char::is_ascii_digit).collect();
    digits.parse().unwrap_or_default()
}

fn bytes_of_pages(folder: &Path) -> u64 {
    let Ok(entries) = fs::read_dir(folder) else { return 0 };
    let size = |entry: fs::DirEntry| {
        let path = entry.path();
        // A link to a page is another address of it.
        let Ok(known) = fs::symlink_metadata(&path) else { return 0 };
        let is_page = matches!(path.extension().and_then(|e| e.to_str()), Some("html" | "htm" | "xhtml" | "md"));
        match () {
            () if known.is_dir() => bytes_of_pages(&path),
            () if is_page => known.len(),
            () => 0,
        }
    };
    entries.flatten().map(size).sum()
}
