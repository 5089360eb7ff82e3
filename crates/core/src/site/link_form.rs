//! How the links of a site that is a folder of files are written, so that new ones are written alike.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use super::Address;

/// What is written for the last part of a page's path.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Ending {
    /// As the file is called: `moon.md`.
    AsFile,
    /// `moon.html`, whatever the file is.
    Html,
    /// `moon`.
    Bare,
    /// `moon/`.
    Slash,
}

impl Ending {
    /// All ways to write an ending.
    pub const ALL: [Self; 4] = [Self::AsFile, Self::Html, Self::Bare, Self::Slash];
}

/// From where the paths of links count that begin with a slash. Paths here have no slash at either end.
#[derive(Debug, Default, Clone, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Root {
    /// From the folder itself.
    #[default]
    Folder,
    /// The folder is published below this path.
    Below(String),
    /// What is published is this part of the folder.
    Part(String),
}

/// The form in which links between files of a folder are written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LinkForm {
    pub ending: Ending,
    /// Whether paths begin at the root: `/guides/moon`; else they lead from one page to the other: `../guides/moon`.
    pub from_root: bool,
    /// From where paths from the root count.
    pub root: Root,
    /// Whether relative paths count from the page as though it were a folder, as they do where its address ends in `/`.
    pub from_inside: bool,
}

impl Default for LinkForm {
    fn default() -> Self {
        Self { ending: Ending::AsFile, from_root: false, root: Root::Folder, from_inside: false }
    }
}

impl LinkForm {
    /// What is written on one page to lead to another of the same site. O(length).
    pub fn write(&self, from: &Address, to: &Address) -> String {
        let mut target = to.as_url().clone();
        target.set_path(&self.ended(to.as_url().path()));
        self.lead(from, &target)
    }

    /// The same to a file that is no page, whose name is written as it is. O(length).
    pub fn write_file(&self, from: &Address, to: &Address) -> String {
        self.lead(from, to.as_url())
    }

    fn lead(&self, from: &Address, target: &url::Url) -> String {
        if let Some(path) = self.rooted(&target[url::Position::BeforePath..]).filter(|_| self.from_root) {
            return path;
        }
        let mut from = from.as_url().clone();
        if self.from_inside && !from.path().ends_with('/') {
            from.set_path(&format!("{}/", without_ending(from.path())));
        }
        match from.make_relative(target).as_deref() {
            None => target[url::Position::BeforePath..].to_owned(),
            // The library says “/” for the folder in which a page is, which would be the root.
            Some("/") => "./".to_owned(),
            // To itself: nothing would do in an address, but a page that is put together of others has another one.
            Some("") => match target.path().rsplit('/').next().unwrap_or_default() {
                name if name.is_empty() || name.contains(':') => format!("./{name}"),
                name => name.to_owned(),
            },
            Some(path) => path.to_owned(),
        }
    }

    /// A path as it counts from the root; `None` when it is not in the part of the folder that is published.
    fn rooted(&self, path: &str) -> Option<String> {
        match &self.root {
            Root::Folder => Some(path.to_owned()),
            Root::Below(root) => Some(format!("/{root}{path}")),
            Root::Part(part) => {
                let rest = path.strip_prefix('/')?.strip_prefix(part.as_str())?;
                rest.starts_with('/').then(|| rest.to_owned())
            }
        }
    }

    fn ended(&self, path: &str) -> String {
        if path.ends_with('/') {
            return path.to_owned();
        }
        match self.ending {
            Ending::AsFile => path.to_owned(),
            Ending::Html => format!("{}.html", without_ending(path)),
            Ending::Bare => without_ending(path).to_owned(),
            Ending::Slash => format!("{}/", without_ending(path)),
        }
    }
}

/// Endings of files that are pages.
pub(super) const PAGE_ENDINGS: [&str; 5] = [".html", ".htm", ".xhtml", ".md", ".markdown"];

/// A path without the ending of a file that is a page.
pub(super) fn without_ending(path: &str) -> &str {
    PAGE_ENDINGS.iter().find_map(|ending| path.strip_suffix(ending)).filter(|rest| !rest.ends_with('/')).unwrap_or(path)
}

/// Counts how links are written.
#[derive(Debug, Default)]
pub struct FormCounts {
    endings: HashMap<Ending, usize>,
    from_root: usize,
    relative: usize,
    from_inside: usize,
}

/// Fewer links tell nothing.
const FEWEST: usize = 5;

impl FormCounts {
    /// Counts one link as it is written. O(1).
    pub fn add(&mut self, written: &Written) {
        if let Some(ending) = written.ending {
            *self.endings.entry(ending).or_default() += 1;
        }
        match (written.from_root, written.from_inside) {
            (true, _) => self.from_root += 1,
            (false, true) => self.from_inside += 1,
            (false, false) => self.relative += 1,
        }
    }

    /// The form of most links; that of plain files where there are too few to tell.
    pub fn form(&self, root: Root) -> LinkForm {
        let told: usize = self.endings.values().sum();
        let most = self.endings.iter().max_by_key(|(ending, count)| (**count, std::cmp::Reverse(**ending)));
        let ending = most.filter(|_| told >= FEWEST).map_or(Ending::AsFile, |(ending, _)| *ending);
        let relative = self.relative + self.from_inside;
        LinkForm {
            ending,
            from_root: self.from_root > relative && self.from_root >= FEWEST,
            root,
            from_inside: self.from_inside > self.relative,
        }
    }
}

/// How one link that leads to a page is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Written {
    /// Nothing where all forms are alike, as for the page of a folder.
    pub ending: Option<Ending>,
    pub from_root: bool,
    pub from_inside: bool,
}
