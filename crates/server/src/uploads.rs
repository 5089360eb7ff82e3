//! Files that editors send: kept in a folder of their own, unpacked there when they are archives.

use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

use strelm_formats::archive::{ArchiveError, ArchiveLimits, unpack};
use strelm_formats::list::{List, ListError};
use strelm_formats::page_lines::PageLinesError;
use strelm_formats::warc;
use thiserror::Error;
use uuid::Uuid;

mod captures;

/// What was sent and never used is kept so long.
const KEPT_UNUSED: Duration = Duration::from_secs(24 * 3600);

/// Name of a list in its folder.
const LIST: &str = "list";

#[derive(Debug, Clone)]
pub struct Uploads {
    folder: PathBuf,
    pub most_bytes: u64,
}

/// What a file turned out to be.
#[derive(Debug)]
pub enum Held {
    /// An archive, or pages that came with their addresses: so many files.
    Archive(usize),
    List(List),
}

#[derive(Debug, Error)]
pub enum UploadError {
    #[error("the file is empty")]
    Empty,
    #[error(transparent)]
    Archive(#[from] ArchiveError),
    #[error(transparent)]
    List(#[from] ListError),
    #[error(transparent)]
    Pages(#[from] PageLinesError),
    #[error("there is no HTML page in the archive that the site answered with")]
    NoCaptures,
    #[error("the pages of line {0} are of another site than those before")]
    SeveralSites(usize),
    #[error("it is neither an archive (ZIP, tar.gz, WARC), nor pages (JSON Lines), nor a list (CSV, TSV, XLSX)")]
    Unknown,
    #[error("the file cannot be kept: {0}")]
    Keep(#[from] io::Error),
}

impl Uploads {
    pub fn new(folder: &Path, most_mb: u64) -> Self {
        Self { folder: folder.to_owned(), most_bytes: most_mb << 20 }
    }

    /// A new place for a file that is on its way, under a number of its own.
    ///
    /// # Errors
    /// When the folder cannot be made.
    pub fn begin(&self) -> io::Result<(Uuid, PathBuf)> {
        let id = Uuid::new_v4();
        std::fs::create_dir_all(&self.folder)?;
        Ok((id, self.folder.join(format!("{id}.part"))))
    }

    /// Takes in a file that has arrived: an archive is unpacked, a list is read. What cannot be used leaves nothing
    /// behind. O(bytes).
    ///
    /// # Errors
    /// [`UploadError`] says what is wrong with it.
    pub fn keep(&self, id: Uuid, name: &str) -> Result<Held, UploadError> {
        let part = self.folder.join(format!("{id}.part"));
        let unpacked = self.folder.join(format!("{id}.new"));
        let kept = self.keep_in(&part, &unpacked, name);
        // The new folder gets its name only when all of it is there.
        let kept =
            kept.and_then(|held| Ok(std::fs::rename(&unpacked, self.folder.join(id.to_string())).map(|()| held)?));
        let _ = std::fs::remove_file(&part);
        if kept.is_err() {
            let _ = std::fs::remove_dir_all(&unpacked);
        }
        kept
    }

    fn keep_in(&self, part: &Path, into: &Path, name: &str) -> Result<Held, UploadError> {
        let mut file = std::fs::File::open(part)?;
        if file.metadata()?.len() == 0 {
            return Err(UploadError::Empty);
        }
        std::fs::create_dir_all(into)?;
        let is_workbook = name.to_ascii_lowercase().ends_with(".xlsx");
        let mut start = Vec::new();
        file.by_ref().take(4).read_to_end(&mut start)?;
        io::Seek::rewind(&mut file)?;
        if warc::is_warc(&mut file) {
            return Ok(Held::Archive(captures::keep_warc(part, &into.join(stem(name)))?));
        }
        if start.trim_ascii_start().starts_with(b"{") || start == b"\xEF\xBB\xBF{" {
            return Ok(Held::Archive(captures::keep_page_lines(part, &into.join(stem(name)))?));
        }
        let is_archive = !is_workbook && (start.starts_with(b"PK") || start.starts_with(&[0x1f, 0x8b]));
        if is_archive {
            io::Seek::rewind(&mut file)?;
            let site = into.join(stem(name));
            let files = unpack(&mut file, ArchiveLimits::default(), |path: &str, content: &mut dyn Read| {
                let to = site.join(path);
                std::fs::create_dir_all(to.parent().unwrap_or(&site))?;
                io::copy(content, &mut std::fs::File::create(&to)?).map(|_| ())
            })?;
            return Ok(Held::Archive(files));
        }
        if file.metadata()?.len() > List::MOST_BYTES {
            return Err(ListError::TooLarge.into());
        }
        let bytes = std::fs::read(part)?;
        if start.first() == Some(&b'<') || bytes.contains(&0) && !is_workbook {
            return Err(UploadError::Unknown);
        }
        let list = List::read(&bytes)?;
        std::fs::write(into.join(LIST), &bytes)?;
        Ok(Held::List(list))
    }

    /// The folder of an unpacked archive. A single folder that holds everything is taken for the site itself.
    pub fn site(&self, id: Uuid) -> Option<PathBuf> {
        let mut site = only_folder_in(&self.folder.join(id.to_string()))?;
        // What was captured has its plan at the top, and stays as it is.
        while let Some(inner) = only_folder_in(&site) {
            site = inner;
        }
        Some(site)
    }

    /// A list that was kept.
    ///
    /// # Errors
    /// When it is no longer there.
    pub fn list(&self, id: Uuid) -> Result<List, UploadError> {
        Ok(List::read(&std::fs::read(self.folder.join(id.to_string()).join(LIST))?)?)
    }

    /// Removes the upload in which `path` lies, if it lies in one: its site is gone.
    pub fn remove_of(&self, path: &Path) {
        let (Ok(folder), Ok(path)) = (self.folder.canonicalize(), path.canonicalize()) else { return };
        if let Some(first) = path.strip_prefix(&folder).ok().and_then(|below| below.components().next()) {
            let _ = std::fs::remove_dir_all(folder.join(first));
        }
    }

    /// Removes what was sent long ago and is not in `used`.
    pub fn tidy(&self, used: &[PathBuf]) {
        let Ok(entries) = std::fs::read_dir(&self.folder) else { return };
        let folder = self.folder.canonicalize().unwrap_or_else(|_| self.folder.clone());
        for entry in entries.flatten() {
            let is_old = entry
                .metadata()
                .and_then(|known| known.modified())
                .is_ok_and(|at| SystemTime::now().duration_since(at).is_ok_and(|age| age > KEPT_UNUSED));
            let path = folder.join(entry.file_name());
            if !is_old || used.iter().any(|used| used.starts_with(&path)) {
                continue;
            }
            let _ = if path.is_dir() { std::fs::remove_dir_all(&path) } else { std::fs::remove_file(&path) };
        }
    }
}

/// A file's name without its endings, as a folder can have it.
fn stem(name: &str) -> String {
    let name = name.rsplit(['/', '\\']).next().unwrap_or_default();
    let lower = name.to_ascii_lowercase();
    let endings = [".tar.gz", ".tgz", ".zip", ".warc.gz", ".warc", ".jsonl", ".ndjson", ".json"];
    let ending = endings.into_iter().find(|ending| lower.ends_with(ending)).unwrap_or_default();
    let stem: String = name[..name.len() - ending.len()]
        .chars()
        .map(|c| if c.is_alphanumeric() || "-_ ".contains(c) { c } else { '-' })
        .take(60)
        .collect();
    let stem = stem.trim_matches([' ', '-']).to_owned();
    if stem.is_empty() { "site".to_owned() } else { stem }
}

/// The one folder in a folder that holds nothing else.
fn only_folder_in(folder: &Path) -> Option<PathBuf> {
    let mut entries = std::fs::read_dir(folder).ok()?.flatten();
    let only = entries.next()?;
    (entries.next().is_none() && only.path().is_dir()).then(|| only.path())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_files_become_names_of_folders() {
        assert_eq!(stem("My site.zip"), "My site");
        assert_eq!(stem("../../evil.tar.gz"), "evil");
        assert_eq!(stem("C:\\x\\.zip"), "site");
        assert_eq!(stem("été.ZIP"), "été");
    }

    #[test]
    fn what_cannot_be_used_leaves_nothing_behind() {
        let folder = tempfile::tempdir().unwrap();
        let uploads = Uploads::new(folder.path(), 1);
        for content in [
            "",
            "<html></html>",
            "{}",
            "{\"url\": \"/\"}",
            "WARC/1.0\r\nContent-Length: 0\r\n\r\n\r\n",
            "PK\u{3}\u{4}garbage",
            "\u{0}\u{1}\u{2}",
        ] {
            let (id, part) = uploads.begin().unwrap();
            std::fs::write(&part, content).unwrap();
            assert!(uploads.keep(id, "x").is_err(), "{content}");
            assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0, "{content}");
        }
        let (id, part) = uploads.begin().unwrap();
        std::fs::write(&part, "url,title\nhttp://sky.example/,Sky\n").unwrap();
        assert!(matches!(uploads.keep(id, "list.csv"), Ok(Held::List(_))));
        assert_eq!(uploads.list(id).unwrap().len(), 1);
        uploads.remove_of(&folder.path().join(id.to_string()).join("list"));
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0);
    }
}
