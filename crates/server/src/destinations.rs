//! `strelm destinations`: where the links of a folder of HTML lead beside its own pages, without a database.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Write;
use std::path::PathBuf;

use serde::Serialize;
use strelm_core::document::Document;
use strelm_core::in_order::in_order;
use strelm_core::site::{Address, Destination};
use strelm_sources::folder::{self, FolderFile};

use crate::in_folder::{AT_ONCE, base};
use crate::words::{in_a_line, many};

/// `strelm destinations`.
#[derive(Debug, clap::Args)]
pub struct Destinations {
    /// The folder of HTML files
    folder: PathBuf,
    /// Print one JSON object a line
    #[arg(long)]
    jsonl: bool,
}

/// A host, for programs.
#[derive(Serialize)]
struct Row<'r> {
    host: &'r str,
    links: usize,
    pages: usize,
}

#[derive(Default)]
struct Host {
    links: usize,
    pages: BTreeSet<usize>,
}

impl Destinations {
    /// # Errors
    /// When a part of the folder cannot be read.
    pub fn run(&self) -> anyhow::Result<()> {
        let base = base()?;
        let paths = folder::paths(&self.folder).collect::<Result<Vec<_>, _>>()?;
        let hosts_on = |(number, path): (usize, PathBuf)| {
            let FolderFile::Page { path, format, text, .. } = folder::file(&self.folder, &path)? else {
                return Ok((number, Vec::new()));
            };
            let Some(page) = base.of_file(&path) else { return Ok((number, Vec::new())) };
            let document = Document::read(text, format);
            let away = document.links().iter().filter_map(|link| host(&page, &base, &link.href));
            Ok::<_, anyhow::Error>((number, away.collect()))
        };
        let mut hosts: BTreeMap<String, Host> = BTreeMap::new();
        in_order(paths.into_iter().enumerate(), AT_ONCE, hosts_on, |read| {
            let (page, away) = read?;
            for host in away {
                let host = hosts.entry(host).or_default();
                host.links += 1;
                host.pages.insert(page);
            }
            Ok::<(), anyhow::Error>(())
        })?;
        let mut rows: Vec<_> = hosts.iter().collect();
        rows.sort_by_key(|(name, host)| (std::cmp::Reverse(host.links), *name));
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        for (name, host) in rows {
            let (links, pages) = (host.links, host.pages.len());
            match self.jsonl {
                true => writeln!(out, "{}", serde_json::to_string(&Row { host: name, links, pages })?)?,
                false => writeln!(out, "{links:>7}  {} on {}", in_a_line(name), many(pages, "page"))?,
            }
        }
        Ok(out.flush()?)
    }
}

/// The host to which a link leads away; of mail, phone and text messages the scheme. `None` for what stays here.
fn host(page: &Address, base: &Address, href: &str) -> Option<String> {
    match page.follow(href) {
        Destination::Page { address, .. } if address.same_origin(base) => None,
        Destination::Page { address, .. } => address.as_url().host_str().map(str::to_owned),
        Destination::Other(scheme) if ["mailto", "tel", "sms"].contains(&scheme.as_str()) => Some(format!("{scheme}:")),
        Destination::Other(_) | Destination::Unusable => None,
    }
}
