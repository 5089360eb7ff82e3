//! A folder of pages to which rules are applied.

use std::path::{Path, PathBuf};

use anyhow::Context;
use strelm_core::document::{Document, LinkTarget, TextSpan};
use strelm_core::language::fold;
use strelm_core::limits::LinkLimits;
use strelm_core::rules::{Applied, Around, Reader, Rule, RuleLimits, RulePage, RuleSet, apply};
use strelm_core::site::{Address, Destination, LinkForm, PageId, Site, Target};
use strelm_core::tray::Fitting;
use strelm_sources::editing::PageSource;
use strelm_sources::folder::Folder;

use crate::in_folder::{self, FolderSite, Pages, path_of};

/// A folder and the rules that hold there.
pub struct RuledFolder {
    root: PathBuf,
    folder: Folder,
    read: FolderSite,
    pub rules: RuleSet,
}

/// What rules make of a file.
pub struct Change {
    pub path: String,
    pub before: PageSource,
    pub after: String,
    address: Address,
}

/// A page of the folder, with what is around it.
struct Here<'s> {
    site: &'s Site,
    address: &'s Address,
}

impl RuledFolder {
    /// Without any rules yet. O(bytes).
    ///
    /// # Errors
    /// When a part of the folder cannot be read, or the entry page is not there.
    pub fn read(root: &Path, entry: &str) -> anyhow::Result<Self> {
        let read = FolderSite::read_from(root, entry)?;
        let folder = Folder::open(root, in_folder::base()?)?;
        Ok(Self { root: root.to_owned(), folder, read, rules: RuleSet::of(Vec::new()) })
    }

    fn site(&self) -> &Site {
        &self.read.corpus.site
    }

    /// What a table names: a page of the folder by its path, an address of another site, or whoever gets a mail.
    pub fn target(&self, name: &str) -> Option<Target> {
        if name.starts_with("mailto:") {
            return Target::mail(name).ok();
        }
        let base = in_folder::base().ok()?;
        Here { site: self.site(), address: &base }.leads(name).filter(|target| !matches!(target, Target::File(_)))
    }

    /// All pages, in the order of their numbers.
    pub fn pages(&self) -> Vec<PageId> {
        let mut pages: Vec<_> = self.site().pages().map(|page| page.id).collect();
        pages.sort_unstable();
        pages
    }

    /// The path of a page in the folder.
    pub fn path(&self, page: PageId) -> String {
        self.site().page(page).map(|facts| path_of(&facts.address)).unwrap_or_default()
    }

    /// A target as a table would name it.
    pub fn named(&self, target: &Target) -> String {
        match target {
            Target::Page(page) => self.path(*page),
            Target::Place { page, id } => format!("{}#{id}", self.path(*page)),
            other => other.href(self.site().entry(), None, &Pages(self.site())).unwrap_or_default(),
        }
    }

    /// Where words of a page stand in its file.
    pub fn bytes_of(&self, page: PageId, words: TextSpan) -> Option<(usize, usize)> {
        self.read.in_file(page)?.bytes_of(words)
    }

    /// What the rules make of a page, with the page; `None` when it is not there any more. O(n).
    ///
    /// # Errors
    /// When its file cannot be read.
    pub fn applied(&self, reader: &mut Reader<'_>, page: PageId) -> anyhow::Result<Option<(Document, Applied)>> {
        let Some(facts) = self.site().page(page) else { return Ok(None) };
        let Some(mut document) = in_folder::document(&self.root, &facts.address)? else { return Ok(None) };
        self.read.corpus.mark_boilerplate(&mut document);
        let terms: Vec<String> = facts.category.iter().map(|category| fold(category)).collect();
        let path = path_of(&facts.address);
        let of_page = RulePage {
            page: Some(page),
            path: &format!("/{path}"),
            kind: facts.kind,
            terms: &terms,
            language: facts.language,
            published: facts.standing.published,
            came_from: None,
            planned: &[],
        };
        let here = Here { site: self.site(), address: &facts.address };
        let limits = (RuleLimits::default(), LinkLimits::default());
        let mut applied = apply(reader, &document, &of_page, limits, &here);
        // What only the edit shows to be impossible is told as held back, too.
        applied.edit(&document, &self.rules, |rule| self.href(rule, &facts.address).unwrap_or_default())?;
        Ok(Some((document, applied)))
    }

    /// The links as a change of the file. Words that cannot carry them there are left out, and that is said.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub fn change(&self, page: PageId, seen: &Document, applied: &Applied) -> anyhow::Result<Change> {
        let address = self.site().page(page).map(|facts| facts.address.clone()).context("the page is gone")?;
        let path = path_of(&address);
        let before = self.folder.source(&address).with_context(|| path.clone())?;
        // Without what stands above it in its file.
        let document = Document::read(before.text.as_str(), before.format);
        let mut edits = Fitting::on(document.hash());
        for link in applied.links(&self.rules) {
            if let Err(why) = self.put(&mut edits, &document, seen, link.rule, link.words, &address) {
                eprintln!("{}: {why}", crate::words::in_a_line(&path));
            }
        }
        let after = edits.compose()?.apply(&before.text)?;
        Ok(Change { path, before, after, address })
    }

    fn put(
        &self,
        edits: &mut Fitting,
        document: &Document,
        seen: &Document,
        rule: &Rule,
        words: TextSpan,
        on: &Address,
    ) -> anyhow::Result<()> {
        let words = match seen.source() == document.source() {
            true => words,
            false => {
                let quote = seen.quote_around(words).context("the page is not as it was read")?;
                document.find_again(&quote.as_quote(), words.start)?
            }
        };
        let href = self.href(rule, on).context("the target is gone")?;
        let target = LinkTarget { href, says: rule.says.clone() };
        Ok(edits.add(document.put_link_in(words, &target, rule.scope.blocks.also_in())?)?)
    }

    /// What is written on a page for the target of a rule.
    fn href(&self, rule: &Rule, on: &Address) -> Option<String> {
        rule.leads_to().href(on, Some(&LinkForm::default()), &Pages(self.site()))
    }
}

impl Change {
    /// Puts it into the file.
    ///
    /// # Errors
    /// When the file was changed meanwhile, or cannot be written.
    pub fn write(&self, folder: &RuledFolder) -> anyhow::Result<()> {
        folder.folder.replace(&self.address, &self.before, &self.after).with_context(|| self.path.clone())?;
        Ok(())
    }
}

impl Around for Here<'_> {
    fn leads(&self, href: &str) -> Option<Target> {
        match self.address.follow(href) {
            Destination::Page { address, fragment } => Some(match (self.site.page_at(&address), fragment) {
                (Some(page), None) => Target::Page(page),
                (Some(page), Some(id)) => Target::Place { page, id },
                (None, _) if address.same_origin(self.address) => Target::File(address),
                (None, fragment) => Target::Outside { address, fragment },
            }),
            Destination::Other(scheme) if scheme == "mailto" => Target::mail(href).ok(),
            _ => None,
        }
    }
}
