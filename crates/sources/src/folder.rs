//! A folder of HTML files as a site.

use std::path::{Path, PathBuf};

use thiserror::Error;
use walkdir::WalkDir;

/// A file larger than this is not read.
const MOST_BYTES: u64 = 32 * 1024 * 1024;

/// A file of the folder. Paths are relative, with `/` between their parts on every system.
#[derive(Debug, Clone)]
pub enum FolderFile {
    Page { path: String, html: String },
    Other { path: String },
}

#[derive(Debug, Error)]
pub enum FolderError {
    #[error("{0} is not a folder")]
    NotAFolder(PathBuf),
    #[error("a part of the folder cannot be read: {0}")]
    Walk(#[from] walkdir::Error),
    #[error("{path} cannot be read: {error}")]
    File { path: PathBuf, error: std::io::Error },
    #[error("{0} is larger than {MOST_BYTES} bytes")]
    TooLarge(PathBuf),
}

/// All files of a folder in the order of their paths. A symbolic link to a file counts as that file when it stays in
/// the folder; links to folders are not followed. O(bytes of HTML).
///
/// # Errors
/// [`FolderError`] for the first thing that cannot be read.
pub fn files(folder: &Path) -> impl Iterator<Item = Result<FolderFile, FolderError>> {
    let refused = (!folder.is_dir()).then(|| Err(FolderError::NotAFolder(folder.to_owned())));
    let walk = refused.is_none().then(|| WalkDir::new(folder).sort_by_file_name().into_iter());
    let files = walk.into_iter().flatten().filter_map(move |entry| match entry {
        Ok(entry) if entry.file_type().is_file() || is_link_within(folder, &entry) => Some(file(folder, entry.path())),
        Ok(_) => None,
        Err(error) => Some(Err(error.into())),
    });
    refused.into_iter().chain(files)
}

fn is_link_within(folder: &Path, entry: &walkdir::DirEntry) -> bool {
    let target = || {
        let (folder, target) = (folder.canonicalize().ok()?, entry.path().canonicalize().ok()?);
        Some(target.starts_with(folder) && target.is_file())
    };
    entry.path_is_symlink() && target().unwrap_or(false)
}

fn file(folder: &Path, path: &Path) -> Result<FolderFile, FolderError> {
    let relative = path.strip_prefix(folder).unwrap_or(path);
    let parts: Vec<_> = relative.components().map(|part| part.as_os_str().to_string_lossy()).collect();
    let name = parts.join("/");
    let extension = path.extension().and_then(|extension| extension.to_str()).unwrap_or_default();
    if !matches!(extension.to_ascii_lowercase().as_str(), "html" | "htm" | "xhtml") {
        return Ok(FolderFile::Other { path: name });
    }
    let failed = |error| FolderError::File { path: path.to_owned(), error };
    if std::fs::metadata(path).map_err(failed)?.len() > MOST_BYTES {
        return Err(FolderError::TooLarge(path.to_owned()));
    }
    let bytes = std::fs::read(path).map_err(failed)?;
    let html = String::from_utf8(bytes).unwrap_or_else(|error| String::from_utf8_lossy(error.as_bytes()).into());
    Ok(FolderFile::Page { path: name, html })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn links_are_followed_inside_the_folder_only() {
        let outside = tempfile::tempdir().unwrap();
        std::fs::write(outside.path().join("secret.html"), "<p>secret</p>").unwrap();
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("a.html"), "<p>a</p>").unwrap();
        std::os::unix::fs::symlink("a.html", folder.path().join("b.html")).unwrap();
        std::os::unix::fs::symlink(outside.path().join("secret.html"), folder.path().join("c.html")).unwrap();
        std::os::unix::fs::symlink(folder.path(), folder.path().join("loop")).unwrap();
        let found: Vec<_> = files(folder.path()).map(Result::unwrap).collect();
        let names: Vec<_> = found
            .iter()
            .map(|file| match file {
                FolderFile::Page { path, .. } | FolderFile::Other { path } => path.as_str(),
            })
            .collect();
        assert_eq!(names, ["a.html", "b.html"]);
    }
}
