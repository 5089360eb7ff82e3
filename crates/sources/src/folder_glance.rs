//! A glance at a folder: how many files there are, and what the first of them are, without reading it all.

use std::path::PathBuf;

use strelm_core::document::Document;
use strelm_core::site::Address;

use crate::folder::{Folder, FolderFile, Unread};
use crate::front_matter;

/// Files beyond these are not counted; pages beyond these, and beyond so many bytes, are counted and not opened.
const MOST_COUNTED: usize = 100_000;
const MOST_OPENED: usize = 300;
const MOST_BYTES: usize = 16 << 20;

/// Titles that are named.
const NAMED: usize = 5;

/// What a folder seems to hold.
#[derive(Debug, Default)]
pub struct FolderGlance {
    /// Files of pages, and others.
    pub pages: usize,
    pub others: usize,
    /// Whether there are more files than were counted, or pages that were not opened: what follows is of the first.
    pub is_cut: bool,
    pub titles: Vec<String>,
    pub drafts: usize,
    pub unread: Vec<Unread>,
    /// Addresses that send on to others.
    pub redirects: usize,
    pub has_entry: bool,
}

impl Folder {
    /// O(files), and the bytes of a few hundred of them.
    pub fn glance(&self, entry: &Address) -> FolderGlance {
        let mut glance = FolderGlance { redirects: self.redirects().len(), ..FolderGlance::default() };
        let (mut opened, mut bytes) = (0, 0);
        for path in self.paths() {
            if glance.pages + glance.others + glance.unread.len() >= MOST_COUNTED {
                glance.is_cut = true;
                break;
            }
            match path {
                Ok(path) => match self.page_at(&path) {
                    None => glance.others += 1,
                    Some(address) => {
                        glance.pages += 1;
                        glance.has_entry |= address == *entry;
                        if opened >= MOST_OPENED || bytes >= MOST_BYTES {
                            glance.is_cut = true;
                            continue;
                        }
                        opened += 1;
                        bytes += self.glance_at(path, &address, &mut glance);
                    }
                },
                Err(error) => glance.unread.extend(self.unread(&error)),
            }
        }
        glance
    }

    /// Opens one page; gives how many bytes it has.
    fn glance_at(&self, path: PathBuf, address: &Address, glance: &mut FolderGlance) -> usize {
        match self.file(&path) {
            Ok(FolderFile::Page { text, format, .. }) => {
                match front_matter::split(&text) {
                    Ok((front, _)) if front.draft => {
                        glance.drafts += 1;
                        glance.pages -= 1;
                    }
                    Ok((front, start)) if glance.titles.len() < NAMED => {
                        let title = front.title.or_else(|| {
                            let document = Document::read(&text[start..], format);
                            document.head().title.clone().or_else(|| document.main_heading())
                        });
                        glance.titles.push(title.unwrap_or_else(|| address.from_root()));
                    }
                    Ok(_) => {}
                    Err(error) => {
                        let why = format!("its front matter cannot be read: {error}");
                        glance.unread.push(Unread::page(address.clone(), why));
                        glance.pages -= 1;
                    }
                }
                text.len()
            }
            Ok(FolderFile::Other { .. }) => 0,
            Err(error) => {
                glance.unread.extend(self.unread(&error));
                glance.pages -= 1;
                0
            }
        }
    }
}
