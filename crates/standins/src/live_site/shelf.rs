//! All pages of the live site, in memory and on disk.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::{PoisonError, RwLock};

use thiserror::Error;
use walkdir::WalkDir;

use super::page::{PageFile, PageFileError};

/// Why pages cannot be read or kept.
#[derive(Debug, Error)]
pub enum ShelfError {
    #[error("{path}: {error}")]
    File { path: PathBuf, error: std::io::Error },
    #[error("{path}: {error}")]
    Page { path: PathBuf, error: PageFileError },
    #[error("there is no page {0}")]
    NoPage(String),
    #[error("the page is not the version that was to be replaced")]
    OtherVersion,
}

/// Pages by path: `/guides/seeing/` stands in `pages/guides/seeing.html`, `/guides/` in `pages/guides/index.html`.
pub struct Shelf {
    folder: PathBuf,
    pages: RwLock<BTreeMap<String, PageFile>>,
}

impl Shelf {
    /// Opens the state in `state`; when there is none yet, starts it as a copy of the `seeds`, one laid over the other.
    ///
    /// # Errors
    /// [`ShelfError`] with the file at fault.
    pub fn open(seeds: &[PathBuf], state: &Path) -> Result<Self, ShelfError> {
        if !state.join("pages").is_dir() {
            let folders = seeds.iter().flat_map(|seed| ["pages", "media"].map(|name| (seed.join(name), name)));
            for (folder, name) in folders.filter(|(folder, _)| folder.is_dir()) {
                copy_folder(&folder, &state.join(name))?;
            }
        }
        let mut pages = BTreeMap::new();
        for entry in WalkDir::new(state.join("pages")) {
            let entry = entry.map_err(|error| file_error(state, error.into()))?;
            if entry.path().extension().is_some_and(|extension| extension == "html") {
                let source = std::fs::read_to_string(entry.path()).map_err(|e| file_error(entry.path(), e))?;
                let page = PageFile::parse(&source)
                    .map_err(|error| ShelfError::Page { path: entry.path().to_owned(), error })?;
                pages.insert(path_of(&state.join("pages"), entry.path()), page);
            }
        }
        Ok(Self { folder: state.to_owned(), pages: RwLock::new(pages) })
    }

    /// The page at a path.
    pub fn page(&self, path: &str) -> Option<PageFile> {
        self.pages.read().unwrap_or_else(PoisonError::into_inner).get(path).cloned()
    }

    /// All pages with their paths, in the order of their paths.
    pub fn all(&self) -> BTreeMap<String, PageFile> {
        self.pages.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// The folder of its pictures.
    pub fn media(&self) -> PathBuf {
        self.folder.join("media")
    }

    /// Replaces the content of a page, on disk first. With `version`, only if that is still the page's version.
    ///
    /// # Errors
    /// [`ShelfError`]; the page is then as it was.
    pub fn replace(&self, path: &str, content: &str, version: Option<&str>) -> Result<(), ShelfError> {
        let mut pages = self.pages.write().unwrap_or_else(PoisonError::into_inner);
        let page = pages.get(path).ok_or_else(|| ShelfError::NoPage(path.to_owned()))?;
        if version.is_some_and(|version| version != page.etag()) {
            return Err(ShelfError::OtherVersion);
        }
        let page = page.with_content(content);
        let file = self.file_of(path);
        write_whole(&file, &page.to_source()).map_err(|error| file_error(&file, error))?;
        pages.insert(path.to_owned(), page);
        Ok(())
    }

    /// Removes a page, on disk first.
    ///
    /// # Errors
    /// [`ShelfError`]; the page is then as it was.
    pub fn remove(&self, path: &str) -> Result<(), ShelfError> {
        let mut pages = self.pages.write().unwrap_or_else(PoisonError::into_inner);
        if !pages.contains_key(path) {
            return Err(ShelfError::NoPage(path.to_owned()));
        }
        let file = self.file_of(path);
        std::fs::remove_file(&file).map_err(|error| file_error(&file, error))?;
        pages.remove(path);
        Ok(())
    }

    /// Adds a page, or replaces one with its front matter.
    ///
    /// # Errors
    /// [`ShelfError`] when the source is no page or cannot be written.
    pub fn add(&self, path: &str, source: &str) -> Result<(), ShelfError> {
        let file = self.file_of(path);
        let page = PageFile::parse(source).map_err(|error| ShelfError::Page { path: file.clone(), error })?;
        let mut pages = self.pages.write().unwrap_or_else(PoisonError::into_inner);
        let folder = file.parent().unwrap_or(Path::new("."));
        std::fs::create_dir_all(folder).map_err(|error| file_error(folder, error))?;
        write_whole(&file, source).map_err(|error| file_error(&file, error))?;
        pages.insert(path.to_owned(), page);
        Ok(())
    }

    fn file_of(&self, path: &str) -> PathBuf {
        let inner = path.trim_matches('/');
        let direct = self.folder.join("pages").join(format!("{inner}.html"));
        if !inner.is_empty() && direct.is_file() {
            direct
        } else {
            self.folder.join("pages").join(inner).join("index.html")
        }
    }
}

fn path_of(pages: &Path, file: &Path) -> String {
    let relative = file.strip_prefix(pages).unwrap_or(file).with_extension("");
    let inner = relative.to_string_lossy().replace('\\', "/");
    match inner.strip_suffix("index").map(|folder| folder.trim_end_matches('/')) {
        Some("") => "/".to_owned(),
        Some(folder) if inner.ends_with("/index") => format!("/{folder}/"),
        _ => format!("/{inner}/"),
    }
}

fn write_whole(file: &Path, text: &str) -> std::io::Result<()> {
    let folder = file.parent().unwrap_or(Path::new("."));
    let mut new = tempfile::NamedTempFile::new_in(folder)?;
    new.write_all(text.as_bytes())?;
    new.as_file().sync_all()?;
    new.persist(file).map_err(|error| error.error)?;
    Ok(())
}

fn copy_folder(from: &Path, to: &Path) -> Result<(), ShelfError> {
    for entry in WalkDir::new(from) {
        let entry = entry.map_err(|error| file_error(from, error.into()))?;
        let target = to.join(entry.path().strip_prefix(from).unwrap_or(entry.path()));
        let result = match entry.file_type().is_dir() {
            true => std::fs::create_dir_all(&target),
            false => std::fs::copy(entry.path(), &target).map(|_| ()),
        };
        result.map_err(|error| file_error(&target, error))?;
    }
    Ok(())
}

fn file_error(path: &Path, error: std::io::Error) -> ShelfError {
    ShelfError::File { path: path.to_owned(), error }
}
