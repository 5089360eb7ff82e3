//! The files of a folder, and which of them are pages.

use std::path::{Path, PathBuf};

use strelm_core::document::Format;
use strelm_core::document::encoding::{Decoded, PageEncoding, decode};
use walkdir::WalkDir;

use crate::captured::Plan;
use crate::folder_unread::{FolderError, LARGEST};

/// Names under which a folder's own page is written. Of several in one folder the first of these is read.
pub(crate) const INDEXES: [&str; 9] = [
    "index.html",
    "index.htm",
    "index.xhtml",
    "index.md",
    "index.markdown",
    "_index.md",
    "README.md",
    "readme.md",
    "README.markdown",
];

/// A file of the folder. Paths are relative, with `/` between their parts on every system.
#[derive(Debug, Clone)]
pub enum FolderFile {
    Page { path: String, format: Format, text: String, encoding: PageEncoding, is_faithful: bool },
    Other { path: String },
}

/// All files of a folder in the order of their paths. A symbolic link to a file counts as that file when it stays in
/// the folder; links to folders are not followed, and what begins with a dot is left out. O(bytes of pages).
///
/// # Errors
/// [`FolderError`] for each thing that cannot be read; the others follow.
pub fn files(folder: &Path) -> impl Iterator<Item = Result<FolderFile, FolderError>> {
    paths(folder).map(move |path| file(folder, &path?))
}

/// The paths of [`files`], for whoever reads them on several cores by [`file`]. Links that lead nowhere are left out.
///
/// # Errors
/// As [`files`].
pub fn paths(folder: &Path) -> impl Iterator<Item = Result<PathBuf, FolderError>> {
    all_paths(folder).filter(|path| !matches!(path, Err(FolderError::Link { .. })))
}

/// As [`paths`], with an error for each link that leads nowhere.
pub(crate) fn all_paths(folder: &Path) -> impl Iterator<Item = Result<PathBuf, FolderError>> {
    let refused = (!folder.is_dir()).then(|| Err(FolderError::NotAFolder(folder.to_owned())));
    let is_shown =
        |entry: &walkdir::DirEntry| entry.depth() == 0 || !entry.file_name().to_string_lossy().starts_with('.');
    let walk = refused.is_none().then(|| WalkDir::new(folder).sort_by_file_name().into_iter().filter_entry(is_shown));
    let paths = walk.into_iter().flatten().filter_map(move |entry| match entry {
        Ok(entry) if entry.file_type().is_file() => Some(Ok(entry.into_path())),
        Ok(entry) if entry.path_is_symlink() => linked(folder, entry.into_path()).transpose(),
        Ok(_) => None,
        Err(error) => Some(Err(error.into())),
    });
    refused.into_iter().chain(paths)
}

/// A symbolic link that leads to a file within the folder; `None` when it leads to a folder or elsewhere.
fn linked(folder: &Path, path: PathBuf) -> Result<Option<PathBuf>, FolderError> {
    match folder.canonicalize().and_then(|folder| Ok((folder, path.canonicalize()?))) {
        Ok((folder, target)) => Ok((target.starts_with(folder) && target.is_file()).then_some(path)),
        Err(error) => Err(FolderError::Link { path, error }),
    }
}

/// Whether readers open a file of this kind by itself, though no page may lead to it.
pub(crate) fn is_document(media_type: &str) -> bool {
    const OFFICE: [&str; 6] = [
        "application/pdf",
        "application/msword",
        "application/rtf",
        "application/epub",
        "application/vnd.oasis.opendocument",
        "application/vnd.openxmlformats",
    ];
    OFFICE.iter().any(|kind| media_type.starts_with(kind))
}

pub(crate) fn format_of(path: &Path) -> Option<Format> {
    let extension = path.extension().and_then(|extension| extension.to_str()).unwrap_or_default();
    match extension.to_ascii_lowercase().as_str() {
        "html" | "htm" | "xhtml" => Some(Format::Html),
        "md" | "markdown" => Some(Format::Markdown),
        _ => None,
    }
}

/// Reads one file of a folder. O(bytes of a page).
///
/// # Errors
/// [`FolderError`] when it cannot be read.
pub fn file(folder: &Path, path: &Path) -> Result<FolderFile, FolderError> {
    file_in(folder, path, None)
}

/// `plan` may know the encoding with which the file came.
pub(crate) fn file_in(folder: &Path, path: &Path, plan: Option<&Plan>) -> Result<FolderFile, FolderError> {
    let relative = path.strip_prefix(folder).unwrap_or(path);
    let parts: Vec<_> = relative.components().map(|part| part.as_os_str().to_string_lossy()).collect();
    let name = parts.join("/");
    let Some(format) = format_of(path) else { return Ok(FolderFile::Other { path: name }) };
    let failed = |error| FolderError::File { path: path.to_owned(), error };
    if std::fs::metadata(path).map_err(failed)?.len() > LARGEST {
        return Err(FolderError::TooLarge(path.to_owned()));
    }
    let bytes = std::fs::read(path).map_err(failed)?;
    let Decoded { text, encoding, is_faithful } = decode(bytes, plan.and_then(|plan| plan.charset_of(&name)));
    Ok(FolderFile::Page { path: name, format, text, encoding, is_faithful })
}

/// Which of the names of a folder's own page goes before others; all other files are alike.
pub(crate) fn rank(path: &str) -> usize {
    let name = path.rsplit('/').next().unwrap_or(path);
    INDEXES.iter().position(|index| *index == name).unwrap_or(INDEXES.len())
}

/// Whether a file holds the page of the folder in which it is.
pub(crate) fn is_index(path: &str) -> bool {
    rank(path) < INDEXES.len()
}
