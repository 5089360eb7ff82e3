//! Reading all of a folder: what there is first, then its pages in stretches, so that no more of them are in memory than it
//! takes to read some.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::path::{Path, PathBuf};

use rayon::iter::{IntoParallelIterator, IntoParallelRefIterator, ParallelIterator};
use strelm_core::document::Document;
use strelm_core::site::{Address, FormCounts, LinkForm};

use crate::crawled_page::CrawledPage;
use crate::folder::{Folder, FolderFile};
use crate::folder_files::{is_document, is_index, rank};
use crate::folder_links::Names;
use crate::folder_unread::{FolderError, Unread};
use crate::front_matter;
use crate::page_source::PageSource;
use strelm_core::site::Validators;

/// From so many pages, evenly apart, is learnt from where paths from the root count.
const TELLING: usize = 1000;

/// Files that are looked at side by side.
const AT_ONCE: usize = 1000;

/// What there is in a folder, and how far its pages are read.
pub struct FolderReading {
    folder: Folder,
    pages: Vec<FoundPage>,
    next: usize,
    names: Names,
    /// Files that are no pages.
    files: BTreeMap<Address, OtherFile>,
    /// Pages that send on, though they say nothing themselves.
    sent_on: Vec<(Address, Address)>,
    /// Of which the editor is told when it sends on.
    entry: Option<Address>,
    dead: BTreeSet<Address>,
    counts: FormCounts,
    /// Pages that say that they are drafts.
    pub drafts: Vec<Address>,
    pub unread: Vec<Unread>,
    /// Files that have the same address as another one, which is read in their stead: by the addresses of their paths.
    pub doubles: Vec<(Address, String)>,
    pub redirects: Vec<(Address, Address)>,
    /// Addresses that came more than once with captured pages, of which the latest is read.
    pub again: Vec<Address>,
}

/// What is known of a folder when all of its pages are read.
#[derive(Debug, Default)]
pub struct FolderRead {
    /// Other files to which pages link, and documents, with their media types.
    pub files: Vec<(Address, String)>,
    /// What else there is, such as styles and pictures: parts of pages, and none of their own.
    pub parts: Vec<(Address, String)>,
    /// Pages that only send their readers on, and where to.
    pub redirects: Vec<(Address, Address)>,
    /// Own addresses to which pages link and at which there is no file.
    pub dead: Vec<Address>,
    /// All that could not be read.
    pub unread: Vec<Unread>,
    /// How links between the pages are written; `None` for captured pages, which lead to each other as they did on the
    /// web.
    pub link_form: Option<LinkForm>,
}

/// A file that is no page.
struct OtherFile {
    media_type: String,
    /// Whether a page leads to it.
    is_linked: bool,
}

/// A page's file.
struct FoundPage {
    address: Address,
    path: PathBuf,
}

/// What a file is, without its text.
enum Found {
    Page {
        path: String,
        file: PathBuf,
        is_draft: bool,
        trouble: Option<String>,
    },
    /// A symbolic link to a page of the folder, which is another address of it.
    Alias {
        path: String,
        to: String,
    },
    Other {
        path: String,
    },
    Unread(FolderError),
}

impl Folder {
    /// Looks what there is. O(bytes), of which those of few files are in memory at once.
    /// `entry` is a page whatever it holds.
    pub fn reading(&self, entry: Option<&Address>) -> FolderReading {
        let mut reading = FolderReading {
            folder: self.clone(),
            pages: Vec::new(),
            next: 0,
            names: self.no_names(),
            files: BTreeMap::new(),
            sent_on: Vec::new(),
            entry: entry.cloned(),
            dead: BTreeSet::new(),
            counts: FormCounts::default(),
            drafts: Vec::new(),
            unread: Vec::new(),
            doubles: Vec::new(),
            redirects: Vec::new(),
            again: self.again().iter().filter_map(|path| self.at(path)).collect(),
        };
        // Where each address was found, and in which place it is among the pages.
        let mut found_at: HashMap<Address, (String, Option<usize>)> = HashMap::new();
        let mut pages: Vec<Option<FoundPage>> = Vec::new();
        let mut paths = self.paths();
        loop {
            let some: Vec<_> = paths.by_ref().take(AT_ONCE).collect();
            if some.is_empty() {
                break;
            }
            let found: Vec<Found> = some.into_par_iter().map(|path| self.look(path)).collect();
            for found in found {
                reading.take(found, &mut pages, &mut found_at);
            }
        }
        reading.pages = pages.into_iter().flatten().collect();
        for (from, to) in self.redirects() {
            reading.redirects.extend(self.at(from).zip(self.at(to)));
        }
        reading.redirects.iter().for_each(|(from, _)| reading.names.put_redirect(from));
        reading.learn_root();
        reading
    }

    fn look(&self, path: Result<PathBuf, FolderError>) -> Found {
        if let Ok(link) = &path
            && let Some((path, to)) = self.alias(link)
        {
            return Found::Alias { path, to };
        }
        let looked = path.and_then(|path| Ok((self.file(&path)?, path)));
        match looked {
            Ok((FolderFile::Other { path }, _)) => Found::Other { path },
            Ok((FolderFile::Page { path, text, .. }, file)) => {
                let front = front_matter::split(&text);
                let is_draft = matches!(&front, Ok((front, _)) if front.draft);
                let trouble = front.err().map(|error| format!("its front matter cannot be read: {error}"));
                Found::Page { path, file, is_draft, trouble }
            }
            Err(error) => Found::Unread(error),
        }
    }
}

impl FolderReading {
    fn take(
        &mut self,
        found: Found,
        pages: &mut Vec<Option<FoundPage>>,
        found_at: &mut HashMap<Address, (String, Option<usize>)>,
    ) {
        match found {
            Found::Other { path } => {
                let kind = mime_guess::from_path(&path).first_or_octet_stream().to_string();
                if let Some(address) = self.folder.address_of(&path) {
                    self.names.put_file(&path, &address);
                    self.files.insert(address, OtherFile { media_type: kind, is_linked: false });
                }
            }
            Found::Page { path, file, is_draft, trouble } => {
                let Some(address) = self.folder.address_of(&path) else { return };
                if is_draft {
                    self.drafts.push(address);
                    return;
                }
                self.names.put_page(&path, &address);
                if let Some((other, place)) = found_at.get(&address) {
                    let (kept, ousted) = if rank(other) <= rank(&path) { (other, &path) } else { (&path, other) };
                    let why = format!("{kept} has the same address, and is read in its stead");
                    self.doubles.extend(self.folder.by_path(ousted).map(|address| (address, why)));
                    if *ousted == path {
                        return;
                    }
                    if let Some(place) = place {
                        pages[*place] = None;
                    }
                    self.unread.retain(|unread| unread.address != address);
                }
                match trouble {
                    Some(why) => {
                        self.unread.push(Unread::page(address.clone(), why));
                        found_at.insert(address, (path, None));
                    }
                    None => {
                        found_at.insert(address.clone(), (path, Some(pages.len())));
                        pages.push(Some(FoundPage { address, path: file }));
                    }
                }
            }
            Found::Alias { path, to } => {
                let (from, to) = (self.folder.address_of(&path), self.folder.address_of(&to));
                if let Some((from, to)) = from.zip(to).filter(|(from, to)| from != to) {
                    self.names.put_page(&path, &to);
                    self.redirects.push((from, to));
                }
            }
            Found::Unread(error) => self.unread.extend(self.folder.unread(&error)),
        }
    }

    /// Learns from where paths from the root count.
    fn learn_root(&mut self) {
        let every = self.pages.len().div_ceil(TELLING).max(1);
        let telling: Vec<&FoundPage> = self.pages.iter().step_by(every).collect();
        let read = |page: &FoundPage| self.folder.page_of(&page.address, &page.path).ok();
        let read: Vec<_> = telling.into_par_iter().filter_map(read).collect();
        self.names.learn_root(read.iter().map(|page| (&page.address, &page.document)));
    }

    /// Whether nothing at all was found in the folder.
    pub fn is_empty(&self) -> bool {
        self.pages.is_empty()
            && self.files.is_empty()
            && self.drafts.is_empty()
            && self.unread.is_empty()
            && self.doubles.is_empty()
    }

    /// The addresses of all pages that are to be read.
    pub fn pages(&self) -> impl Iterator<Item = &Address> {
        self.pages.iter().map(|page| &page.address)
    }

    /// Reads the next pages, side by side; none when all are read. O(their bytes).
    pub fn read_next(&mut self, most: usize) -> Vec<CrawledPage> {
        loop {
            let some = &self.pages[self.next..self.pages.len().min(self.next + most)];
            if some.is_empty() {
                return Vec::new();
            }
            let read: Vec<_> = some.par_iter().map(|page| self.folder.page_of(&page.address, &page.path)).collect();
            self.next += some.len();
            let mut pages = Vec::new();
            for read in read {
                match read {
                    Ok(page) => match self.sent_on(&page) {
                        Some(to) => self.sent_on.push((page.address, to)),
                        None => pages.push(self.with_destinations(page)),
                    },
                    Err(unread) => self.unread.extend(unread),
                }
            }
            // What cannot be read after all is no end.
            if !pages.is_empty() {
                return pages;
            }
        }
    }

    /// Where a page that says nothing itself sends its readers on.
    fn sent_on(&self, page: &CrawledPage) -> Option<Address> {
        let to = page.document.sends_on().filter(|_| self.entry.as_ref() != Some(&page.address))?;
        self.names.find(&page.address, &to).filter(|to| *to != page.address)
    }

    fn with_destinations(&mut self, page: CrawledPage) -> CrawledPage {
        let Self { names, dead, counts, files, .. } = self;
        let page =
            CrawledPage { destinations: Some(names.destinations(&page.address, &page.document, dead, counts)), ..page };
        for linked in page.linked() {
            if let Some(file) = files.get_mut(linked) {
                file.is_linked = true;
            }
        }
        page
    }

    /// What is known when all pages are read.
    pub fn end(self) -> FolderRead {
        let Self { files, dead, unread, names, counts, sent_on, .. } = self;
        let (files, parts): (Vec<_>, Vec<_>) =
            files.into_iter().partition(|(_, file)| file.is_linked || is_document(&file.media_type));
        let told = |files: Vec<(Address, OtherFile)>| {
            files.into_iter().map(|(address, file)| (address, file.media_type)).collect()
        };
        let is_unread = |address: &Address| unread.iter().any(|unread| unread.covers(address));
        FolderRead {
            files: told(files),
            parts: told(parts),
            redirects: sent_on,
            dead: dead.into_iter().filter(|address| !is_unread(address)).collect(),
            link_form: names.form(&counts),
            unread,
        }
    }
}

impl Folder {
    /// The path of a symbolic link to another page of the folder, and that of the page. What stands for the page of a folder
    /// is one itself.
    fn alias(&self, link: &Path) -> Option<(String, String)> {
        if !std::fs::symlink_metadata(link).ok()?.is_symlink() || self.page_at(link).is_none() {
            return None;
        }
        let target = link.canonicalize().ok()?;
        self.page_at(&target)?;
        let (path, to) = (self.relative(link)?, self.relative(&target)?);
        let is_shown = !to.split('/').any(|part| part.starts_with('.'));
        (is_shown && !is_index(&path)).then_some((path, to))
    }

    /// Reads a page's file; the error is what is to be told of it.
    fn page_of(&self, address: &Address, path: &Path) -> Result<CrawledPage, Option<Unread>> {
        let read = self.file(path).map_err(|error| self.unread(&error))?;
        let FolderFile::Page { format, text, is_faithful, .. } = read else { return Err(None) };
        let trouble = |error| Some(Unread::page(address.clone(), format!("its front matter cannot be read: {error}")));
        let (front, start) = front_matter::split(&text).map_err(trouble)?;
        let text = text[start..].to_owned();
        let source = is_faithful.then(|| PageSource { version: None, text: text.clone(), format });
        Ok(CrawledPage {
            address: address.clone(),
            document: Document::read(text, format),
            validators: Validators::default(),
            source,
            front,
            destinations: None,
        })
    }
}
