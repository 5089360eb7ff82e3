//! `strelm footer`: links at the foot of every page of a folder of HTML, without a database.

use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use strelm_core::document::Format;
use strelm_core::passing::{FooterLink, FooterLinks, FooterTarget, with_footer};
use strelm_core::site::{Address, Destination, LinkForm, Site, Target};
use strelm_formats::diff;
use strelm_formats::list::List;
use strelm_sources::folder::Folder;

use crate::in_folder::{FolderSite, Pages, base, path_of};
use crate::words::{in_a_line, many};

/// Shows what changes, and writes it when that is asked for.
#[derive(Debug, clap::Args)]
pub struct Footer {
    /// The links: CSV, TSV or XLSX with the columns “text” and “target”
    links: PathBuf,
    /// The folder of HTML files
    folder: PathBuf,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Markup before the links
    #[arg(long, default_value = "<p>")]
    before: String,
    /// Markup between two links
    #[arg(long, default_value = " · ")]
    between: String,
    /// Markup after the links
    #[arg(long, default_value = "</p>")]
    after: String,
    /// Take the links off all pages instead
    #[arg(long)]
    remove: bool,
    /// Change the files
    #[arg(long)]
    write: bool,
}

impl Footer {
    /// # Errors
    /// When the links or a part of the folder cannot be read, a link leads nowhere, or a file cannot be written.
    pub fn run(&self) -> anyhow::Result<()> {
        let read = FolderSite::read_from(&self.folder, &self.entry)?;
        let site = &read.corpus.site;
        let footer = if self.remove { FooterLinks::default() } else { self.read_links(site)? };
        let folder = Folder::open(&self.folder, base()?)?;
        let mut addresses: Vec<_> = site.pages().map(|page| &page.address).collect();
        addresses.sort_unstable_by_key(|address| path_of(address));
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        let (mut changed, mut of_markdown) = (0, 0);
        for address in addresses {
            let path = path_of(address);
            let before = folder.source(address).with_context(|| path.clone())?;
            if before.format != Format::Html {
                of_markdown += 1;
                continue;
            }
            let markup = footer.html(|page| Target::Page(page).href(address, Some(&LinkForm::default()), &Pages(site)));
            let after = with_footer(&before.text, markup.as_deref());
            if after == before.text {
                continue;
            }
            changed += 1;
            write!(out, "{}", diff::unified(&path, &before.text, &after))?;
            if self.write {
                folder.replace(address, &before, &after).with_context(|| path.clone())?;
            }
        }
        out.flush()?;
        let mut err = std::io::stderr().lock();
        let said = if self.write { "changed" } else { "would change; --write changes them" };
        writeln!(err, "{} {said}", many(changed, "page"))?;
        if of_markdown > 0 {
            let pages = many(of_markdown, "page");
            writeln!(err, "{pages} of Markdown left alone: the footer of these is in what makes HTML of them")?;
        }
        Ok(())
    }

    fn read_links(&self, site: &Site) -> anyhow::Result<FooterLinks> {
        let file = |path: &Path| path.display().to_string();
        let list = List::read(&std::fs::read(&self.links).with_context(|| file(&self.links))?)?;
        let headings = list.headings.as_deref().unwrap_or_default();
        let column = |name: &str| {
            let at = headings.iter().position(|heading| heading.trim().eq_ignore_ascii_case(name));
            at.with_context(|| format!("{} has no column “{name}”: it needs “text” and “target”", file(&self.links)))
        };
        let (text, target) = (column("text")?, column("target")?);
        let base = base()?;
        let mut footer = FooterLinks {
            is_on: true,
            before: self.before.clone(),
            between: self.between.clone(),
            after: self.after.clone(),
            links: Vec::new(),
        };
        for row in 0..list.len() {
            let named = list.cell(row, target).trim();
            let Some(target) = footer_target(site, &base, named) else {
                bail!(
                    "row {}: “{}” is no page here as a whole, and no address of another site",
                    row + 2,
                    in_a_line(named)
                );
            };
            footer.links.push(FooterLink { text: list.cell(row, text).trim().to_owned(), target });
        }
        footer.check()?;
        Ok(footer)
    }
}

fn footer_target(site: &Site, base: &Address, named: &str) -> Option<FooterTarget> {
    let Destination::Page { address, fragment } = base.follow(named) else { return None };
    match site.page_at(&address) {
        // A place on a page may come and go with its text.
        Some(page) => fragment.is_none().then_some(FooterTarget::Page(page)),
        None => (!address.same_origin(base)).then(|| FooterTarget::Outside(named.to_owned())),
    }
}
