//! What the links between the files of a folder lead to.

use std::collections::{BTreeSet, HashMap};

use percent_encoding::percent_decode_str;
use strelm_core::document::{Document, Link};
use strelm_core::site::{Address, Destination, FileNames, FormCounts, LinkForm};

use crate::folder_files::is_index;

/// By what links find files.
#[derive(Debug)]
pub(crate) enum Names {
    Files(FileNames),
    /// Captured pages and files by path and query, as links had them on the web.
    Captured(HashMap<String, Address>),
}

impl Names {
    /// Notes a file that is no page.
    pub fn put_file(&mut self, path: &str, address: &Address) {
        match self {
            Self::Files(names) => names.put_file(path, address),
            Self::Captured(known) => {
                known.insert(format!("/{path}"), address.clone());
                known.insert(address.from_root(), address.clone());
            }
        }
    }

    /// Notes the file of a page.
    pub fn put_page(&mut self, path: &str, address: &Address) {
        match self {
            Self::Files(names) => names.put_page(path, address, is_index(path)),
            Self::Captured(known) => drop(known.insert(address.from_root(), address.clone())),
        }
    }

    /// Notes an address that sends on.
    pub fn put_redirect(&mut self, from: &Address) {
        if let Self::Captured(known) = self {
            known.insert(from.from_root(), from.clone());
        }
    }

    /// Learns which folder stands for the root, from how links are written. O(links).
    pub fn learn_root<'d>(&mut self, pages: impl Iterator<Item = (&'d Address, &'d Document)>) {
        let Self::Files(names) = self else { return };
        let path_of = |page: &Address, href: &str| match page.follow(href) {
            Destination::Page { address, .. } if href.starts_with('/') && address.same_origin(page) => {
                Some(percent_decode_str(address.as_url().path()).decode_utf8_lossy().into_owned())
            }
            _ => None,
        };
        let links = pages.flat_map(|(page, document)| document.links().iter().map(move |link| (page, link)));
        let paths: Vec<_> = links.filter_map(|(page, link)| path_of(page, &link.href)).collect();
        names.learn_root(paths.iter().map(String::as_str));
    }

    /// What the links of a page lead to.
    pub fn destinations(
        &self,
        page: &Address,
        document: &Document,
        dead: &mut BTreeSet<Address>,
        counts: &mut FormCounts,
    ) -> Vec<Destination> {
        let mut follow = |link: &Link| {
            let (destination, is_found) = match self {
                Self::Files(names) => {
                    let followed = names.follow(page, &link.href);
                    followed.written.iter().for_each(|written| counts.add(written));
                    (followed.destination, followed.is_found)
                }
                Self::Captured(known) => match page.follow(&link.href) {
                    Destination::Page { address, fragment } if address.same_origin(page) => {
                        let found = known.get(&address.from_root());
                        let is_found = found.is_some();
                        let address = found.cloned().unwrap_or(address);
                        (Destination::Page { address, fragment }, is_found)
                    }
                    other => (other, true),
                },
            };
            if let (Destination::Page { address, .. }, false) = (&destination, is_found) {
                dead.insert(address.clone());
            }
            destination
        };
        document.links().iter().map(&mut follow).collect()
    }

    /// The page or file to which one address leads that is written on a page; `None` when there is none.
    pub fn find(&self, page: &Address, href: &str) -> Option<Address> {
        let followed = match self {
            Self::Files(names) => {
                let followed = names.follow(page, href);
                followed.is_found.then_some(followed.destination)?
            }
            Self::Captured(known) => match page.follow(href) {
                Destination::Page { address, fragment } => {
                    Destination::Page { address: known.get(&address.from_root())?.clone(), fragment }
                }
                other => other,
            },
        };
        match followed {
            Destination::Page { address, .. } if address.same_origin(page) => Some(address),
            _ => None,
        }
    }

    /// How most links are written; `None` where there are too few to tell.
    pub fn form(&self, counts: &FormCounts) -> Option<LinkForm> {
        let Self::Files(names) = self else { return None };
        Some(counts.form(names.root().clone()))
    }
}
