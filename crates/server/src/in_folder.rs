//! A folder of pages as a site, for the commands that need no database.

use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use percent_encoding::percent_decode_str;
use strelm_core::document::encoding::{BytePlaces, PageEncoding};
use strelm_core::document::{Document, PackedPlaces, TextSpan};
use strelm_core::in_order::in_order;
use strelm_core::openings::{Corpus, CorpusPage, Ensemble, For};
use strelm_core::site::{Address, AddressError, Addresses, PageFacts, PageId, PlannedPageId, Site};
use strelm_sources::folder::{self, FolderError, FolderFile};

/// Pages that are in hand at a time: looked at, or waiting to be printed.
pub const AT_ONCE: usize = 32;

/// The folder's files get addresses below this one, which leads nowhere.
const BASE: &str = "http://folder.invalid/";

/// The address of the folder.
///
/// # Errors
/// Never: it is well written.
pub fn base() -> Result<Address, AddressError> {
    Address::parse(BASE)
}

/// The pages of a folder.
pub struct FolderSite {
    /// What is known of them.
    pub corpus: Corpus,
    /// Where the text of each page stands in its file, in the order of the pages, which are numbered from 1.
    pub places: Vec<InFile>,
}

impl FolderSite {
    /// Reads all pages. O(bytes).
    ///
    /// # Errors
    /// When a part of the folder cannot be read, or `entry` is no name of a page.
    pub fn read(folder: &Path, entry: &str) -> anyhow::Result<Self> {
        let base = base()?;
        let entry = base.of_file(entry).context("the entry page has no usable name")?;
        let paths = folder::paths(folder).collect::<Result<Vec<_>, _>>()?;
        let read = |path: &PathBuf| read(folder, path, &base);
        let (corpus, places) = Corpus::read(entry, &paths, read, InFile::of)?;
        Ok(Self { corpus, places })
    }

    /// The same, where the entry page has to be there.
    ///
    /// # Errors
    /// As [`FolderSite::read`], and when there is no such page.
    pub fn read_from(folder: &Path, entry: &str) -> anyhow::Result<Self> {
        let read = Self::read(folder, entry)?;
        let site = &read.corpus.site;
        if site.page_at(site.entry()).is_none() {
            let shown: Vec<_> = site.pages().take(5).map(|page| path_of(&page.address)).collect();
            bail!("{entry} is not in the folder; name the first page with --entry, such as: {}", shown.join(", "));
        }
        Ok(read)
    }

    /// Every page read once more, with what is repeated all over the site marked, in the order of their numbers: `look` looks at them
    /// on all cores, and `tell` gets what that gives, one after the other. O(bytes).
    ///
    /// # Errors
    /// When a file cannot be read, and the first of `tell`.
    pub fn each_page<T: Send>(
        &self,
        folder: &Path,
        look: impl Fn(&PageFacts, &Document) -> T + Sync,
        mut tell: impl FnMut(T) -> anyhow::Result<()>,
    ) -> anyhow::Result<()> {
        let mut pages: Vec<_> = self.corpus.site.pages().collect();
        pages.sort_unstable_by_key(|page| page.id);
        let read = |page: &PageFacts| {
            let mut document = document(folder, &page.address)?;
            document.iter_mut().for_each(|document| self.corpus.mark_boilerplate(document));
            Ok::<_, anyhow::Error>(document.map(|document| look(page, &document)))
        };
        in_order(pages, AT_ONCE, read, |looked| looked?.map_or(Ok(()), &mut tell))
    }

    /// Where the text of a page stands in its file.
    pub fn in_file(&self, page: PageId) -> Option<&InFile> {
        (page.0 as usize).checked_sub(1).and_then(|at| self.places.get(at))
    }

    /// The judge that knows what the authors of the site link, too, when there are enough links that tell.
    ///
    /// # Errors
    /// When a file cannot be read.
    pub fn taught(&mut self, folder: &Path, ensemble: Ensemble) -> anyhow::Result<Ensemble> {
        match self.corpus.habits(&ensemble, |address| document(folder, address))? {
            Some(habits) => Ok(habits.taught_to(&ensemble, For::Authors)?),
            None => Ok(ensemble),
        }
    }
}

/// A page of the folder, read once more; `None` when it is not there as a page.
///
/// # Errors
/// When its file cannot be read.
pub fn document(folder: &Path, address: &Address) -> Result<Option<Document>, FolderError> {
    Ok(match folder::file(folder, &folder.join(path_of(address)))? {
        FolderFile::Page { text, format, .. } => Some(Document::read(text, format)),
        FolderFile::Other { .. } => None,
    })
}

/// The addresses of the pages.
pub struct Pages<'s>(pub &'s Site);

impl Addresses for Pages<'_> {
    fn of_page(&self, page: PageId) -> Option<&Address> {
        self.0.page(page).map(|facts| &facts.address)
    }

    fn of_planned(&self, _: PlannedPageId) -> Option<&Address> {
        None
    }
}

/// Where a page's text stands in its file.
pub struct InFile {
    /// Where each character of the text stands in the source.
    pub text: PackedPlaces,
    /// Where each character of the source stands in the file.
    pub bytes: BytePlaces,
}

/// What is known of the bytes of a page's file.
enum FileBytes {
    /// Those of its text in this encoding.
    Sound(PageEncoding),
    /// Some of them have no text.
    Torn(BytePlaces),
}

impl InFile {
    /// The bytes of the file in which words of the text stand; `None` where they cannot be traced. O(places).
    pub fn bytes_of(&self, words: TextSpan) -> Option<(usize, usize)> {
        let places = self.text.unpack();
        Some((self.bytes.byte(places.source_start(words.start)?), self.bytes.byte(places.source_end(words.end)?)))
    }

    fn of(document: Document, bytes: FileBytes) -> Self {
        let bytes = match bytes {
            FileBytes::Sound(encoding) => BytePlaces::of(encoding, document.source()),
            FileBytes::Torn(places) => places,
        };
        Self { bytes, text: document.into_places() }
    }
}

/// A file of the folder, when it is a page, and what its bytes are.
fn read(folder: &Path, file: &Path, base: &Address) -> anyhow::Result<Option<(CorpusPage, FileBytes)>> {
    let FolderFile::Page { path, format, text, encoding, is_faithful } = folder::file(folder, file)? else {
        return Ok(None);
    };
    let Some(address) = base.of_file(&path) else { return Ok(None) };
    let bytes = match is_faithful {
        true => FileBytes::Sound(encoding),
        false => FileBytes::Torn(BytePlaces::of_torn(encoding, &std::fs::read(file)?)),
    };
    Ok(Some((CorpusPage { address, document: Document::read(text, format) }, bytes)))
}

/// The path of a page relative to the folder.
pub fn path_of(address: &Address) -> String {
    let path = address.as_url().path().trim_start_matches('/');
    percent_decode_str(path).decode_utf8_lossy().into_owned()
}
