//! Adding a site from the command line.

use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use strelm_core::site::Address;
use strelm_sources::captured::Plan;
use strelm_store::site::{self, Settings, SiteSource};
use strelm_store::{PgPool, SiteId};
use url::Url;

use crate::config::Config;
use strelm_work::secrets::Secrets;
use strelm_work::uploads::{Held, Uploads};

/// What is said of a new site.
#[derive(Debug, clap::Args)]
pub struct NewSite {
    /// Address of the page on which readers start, or of where the folder or the archive is published
    #[arg(required_unless_present_any = ["folder", "archive"])]
    entry: Option<String>,
    #[arg(long)]
    name: String,
    /// Address of the editing interface (Micropub)
    #[arg(long, requires = "token_file")]
    micropub: Option<String>,
    /// A file with the bearer token of the editing interface
    #[arg(long)]
    token_file: Option<PathBuf>,
    /// Read the site from this folder instead of the web
    #[arg(long, conflicts_with_all = ["micropub", "archive"])]
    folder: Option<PathBuf>,
    /// Read the site from the pages in this file: ZIP, tar.gz, WARC or JSON Lines
    #[arg(long, conflicts_with = "micropub")]
    archive: Option<PathBuf>,
    /// Leave the files as they are: what is decided is handed over
    #[arg(long)]
    read_only: bool,
}

impl NewSite {
    /// Adds the site and orders its first reading; one with the same entry page is left as it is.
    ///
    /// # Errors
    /// Whatever keeps it from being added, in words for whoever called the command.
    pub async fn add(self, config: &Config, pool: &PgPool) -> anyhow::Result<()> {
        let entry = self.entry.as_deref().map(Address::parse).transpose()?;
        let micropub = self.micropub.as_deref().map(Address::parse).transpose()?;
        let files = match (&self.folder, &self.archive) {
            (Some(folder), _) => Some(config.folders.allowed(folder)?),
            (None, Some(archive)) => Some(unpacked(config, archive)?),
            (None, None) => None,
        };
        let entry = match (entry, &files) {
            (Some(entry), _) => entry,
            (None, Some(path)) => Plan::of(path)?.and_then(|plan| plan.origin).unwrap_or_else(|| unpublished(path)),
            (None, None) => bail!("say where the site is: its address, --folder or --archive"),
        };
        let source = match files {
            Some(path) => SiteSource::Folder { path: path.display().to_string(), writes: !self.read_only },
            None => SiteSource::Web { micropub: micropub.map(|micropub| micropub.to_string()) },
        };
        let name = self.name;
        let (id, is_new) = site::add(pool, &entry, &Settings::new(&name, source)).await?;
        if let Some(file) = self.token_file {
            let token = std::fs::read_to_string(&file).with_context(|| format!("{} cannot be read", file.display()))?;
            let endpoint = self.micropub.context("a token is for an editing interface: name it with --micropub")?;
            Secrets::new(&config.secrets).set_token(id, &Url::parse(&endpoint)?, &token)?;
        }
        let SiteId(number) = id;
        if is_new {
            strelm_work::order_reading(pool, id).await?;
            println!("added {name} as site {number}; its first reading is ordered");
        } else {
            println!("{name} is known already, as site {number}");
        }
        Ok(())
    }
}

/// The folder of an archive, unpacked where those are that editors send.
fn unpacked(config: &Config, archive: &Path) -> anyhow::Result<PathBuf> {
    let uploads = Uploads::new(&config.folders.uploads, config.upload_mb, config.uploads_mb);
    let arriving = uploads.begin()?;
    std::fs::copy(archive, &arriving.part).with_context(|| format!("{} cannot be read", archive.display()))?;
    let name = archive.file_name().unwrap_or_default().to_string_lossy();
    match uploads.keep(&arriving, &name).with_context(|| format!("{} cannot be used", archive.display()))? {
        Held::Archive(_) => {}
        Held::List(_) => bail!("{} is a list of addresses, without their pages", archive.display()),
    }
    let folder = uploads.site(arriving.id).context("there are no files in it")?;
    Ok(folder.canonicalize()?)
}

/// An address for a folder that is not published: it leads nowhere, and no other folder has it.
pub fn unpublished(folder: &Path) -> Address {
    let name: String = folder
        .to_string_lossy()
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' })
        .collect();
    let labels: Vec<_> = name.split('-').filter(|part| !part.is_empty()).collect();
    let mut host = labels.join("-");
    host.truncate(60);
    let host = host.trim_end_matches('-');
    // The name is made of letters, digits and hyphens, so it is a host.
    Address::parse(&format!("http://{host}.folder.invalid/")).unwrap_or_else(|_| fallback())
}

fn fallback() -> Address {
    #[allow(clippy::expect_used, reason = "a fixed address")]
    Address::parse("http://folder.invalid/").expect("an address")
}
