//! Files that editors send: kept in a folder of their own, unpacked there when they are archives.

use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, SystemTime};

use strelm_formats::archive::{ArchiveError, ArchiveLimits, unpack};
use strelm_formats::list::{List, ListError};
use strelm_formats::page_lines::PageLinesError;
use strelm_formats::warc;
use strelm_store::site::{self, Site, SiteSource};
use strelm_store::{PgPool, StoreError};
use thiserror::Error;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use uuid::Uuid;
use walkdir::WalkDir;

mod captures;

/// What was sent and never used is kept so long.
const KEPT_UNUSED: Duration = Duration::from_secs(24 * 3600);

/// Name of a list in its folder.
const LIST: &str = "list";

/// Files that are taken in at once.
const AT_ONCE: usize = 3;

/// Where files that editors send are kept, and how much they may take.
#[derive(Debug, Clone)]
pub struct Uploads {
    folder: PathBuf,
    pub most_bytes: u64,
    /// Of everything that was sent, unpacked.
    most_bytes_of_all: u64,
    turns: Arc<Semaphore>,
}

/// A file that is on its way.
pub struct Arriving {
    pub id: Uuid,
    pub part: PathBuf,
    /// It may have so many bytes at most, and as many once it is unpacked.
    pub room: u64,
    _turn: OwnedSemaphorePermit,
}

/// What a file turned out to be.
#[derive(Debug)]
pub enum Held {
    /// An archive, or pages that came with their addresses: so many files.
    Archive(usize),
    List(List),
}

/// Why a file is not taken.
#[derive(Debug, Error)]
pub enum UploadError {
    #[error("the file is empty")]
    Empty,
    #[error("others are sending files at the moment; send it again in a minute")]
    Busy,
    #[error("there is no room for it: all files that were sent may have {} MB together. Delete sites that were made of files, or raise the setting “uploads_mb”", .0 >> 20)]
    Full(u64),
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
    /// Those in a folder: the most megabytes of one file, and of all together.
    pub fn new(folder: &Path, most_mb: u64, most_mb_of_all: u64) -> Self {
        Self {
            folder: folder.to_owned(),
            most_bytes: most_mb << 20,
            most_bytes_of_all: most_mb_of_all << 20,
            turns: Arc::new(Semaphore::new(AT_ONCE)),
        }
    }

    /// A new place for a file that is on its way, under a number of its own. O(files that were sent).
    ///
    /// # Errors
    /// [`UploadError::Busy`], [`UploadError::Full`], or when the folder cannot be made.
    pub fn begin(&self) -> Result<Arriving, UploadError> {
        let turn = Arc::clone(&self.turns).try_acquire_owned().map_err(|_| UploadError::Busy)?;
        std::fs::create_dir_all(&self.folder)?;
        let room = self.most_bytes_of_all.saturating_sub(self.used());
        if room == 0 {
            return Err(UploadError::Full(self.most_bytes_of_all));
        }
        let id = Uuid::new_v4();
        Ok(Arriving { id, part: self.folder.join(format!("{id}.part")), room, _turn: turn })
    }

    /// Takes in a file that has arrived: an archive is unpacked, a list is read. What cannot be used leaves nothing
    /// behind. O(bytes).
    ///
    /// # Errors
    /// [`UploadError`] says what is wrong with it.
    pub fn keep(&self, arrived: &Arriving, name: &str) -> Result<Held, UploadError> {
        let Arriving { id, part, room, .. } = arrived;
        let unpacked = self.folder.join(format!("{id}.new"));
        let kept = self.keep_in(part, &unpacked, name, *room);
        let _ = std::fs::remove_file(part);
        // Others may have filled the room meanwhile.
        let is_full = || self.used() > self.most_bytes_of_all;
        let kept =
            kept.and_then(|held| if is_full() { Err(UploadError::Full(self.most_bytes_of_all)) } else { Ok(held) });
        // The new folder gets its name only when all of it is there.
        let kept =
            kept.and_then(|held| Ok(std::fs::rename(&unpacked, self.folder.join(id.to_string())).map(|()| held)?));
        if kept.is_err() {
            let _ = std::fs::remove_dir_all(&unpacked);
        }
        kept
    }

    fn keep_in(&self, part: &Path, into: &Path, name: &str, room: u64) -> Result<Held, UploadError> {
        let limits = ArchiveLimits { most_bytes: ArchiveLimits::default().most_bytes.min(room), ..Default::default() };
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
            return Ok(Held::Archive(captures::keep_warc(part, &into.join(stem(name)), limits)?));
        }
        if start.trim_ascii_start().starts_with(b"{") || start == b"\xEF\xBB\xBF{" {
            return Ok(Held::Archive(captures::keep_page_lines(part, &into.join(stem(name)))?));
        }
        let is_archive = !is_workbook && (start.starts_with(b"PK") || start.starts_with(&[0x1f, 0x8b]));
        if is_archive {
            io::Seek::rewind(&mut file)?;
            let site = into.join(stem(name));
            let files = unpack(&mut file, limits, |path: &str, content: &mut dyn Read| {
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

    /// The folders of all sites: what of them was sent is in use.
    ///
    /// # Errors
    /// [`StoreError`].
    pub async fn in_use(pool: &PgPool) -> Result<Vec<PathBuf>, StoreError> {
        let folder = |site: Site| match site.settings.source {
            // One that cannot be reached at the moment is in use all the same.
            SiteSource::Folder { path, .. } => Some(Path::new(&path).canonicalize().unwrap_or_else(|_| path.into())),
            SiteSource::Web { .. } => None,
        };
        Ok(site::all(pool).await?.into_iter().filter_map(folder).collect())
    }

    /// Removes the upload in which `path` lies, if it lies in one and nothing of it is in `used`: its site is gone.
    pub fn remove_of(&self, path: &Path, used: &[PathBuf]) {
        let (Ok(folder), Ok(path)) = (self.folder.canonicalize(), path.canonicalize()) else { return };
        let first = path.strip_prefix(&folder).ok().and_then(|below| below.components().next());
        let upload = first.map(|first| folder.join(first));
        if let Some(upload) = upload.filter(|upload| !used.iter().any(|used| used.starts_with(upload))) {
            let _ = std::fs::remove_dir_all(upload);
        }
    }

    /// Removes what was sent long ago and is not in `used`. O(uploads).
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

    /// How many bytes all uploads have together, those on their way too. O(files that were sent).
    fn used(&self) -> u64 {
        let files = WalkDir::new(&self.folder).into_iter().flatten().filter(|entry| entry.file_type().is_file());
        files.filter_map(|entry| Some(entry.metadata().ok()?.len())).sum()
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
        let uploads = Uploads::new(folder.path(), 1, 100);
        for content in [
            "",
            "<html></html>",
            "{}",
            "{\"url\": \"/\"}",
            "WARC/1.0\r\nContent-Length: 0\r\n\r\n\r\n",
            "PK\u{3}\u{4}garbage",
            "\u{0}\u{1}\u{2}",
        ] {
            let arriving = uploads.begin().unwrap();
            std::fs::write(&arriving.part, content).unwrap();
            assert!(uploads.keep(&arriving, "x").is_err(), "{content}");
            assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0, "{content}");
        }
        let arriving = uploads.begin().unwrap();
        let id = arriving.id;
        std::fs::write(&arriving.part, "url,title\nhttp://sky.example/,Sky\n").unwrap();
        assert!(matches!(uploads.keep(&arriving, "list.csv"), Ok(Held::List(_))));
        assert_eq!(uploads.list(id).unwrap().len(), 1);
        let kept = folder.path().join(id.to_string()).join("list");
        uploads.remove_of(&kept, &[kept.canonicalize().unwrap()]);
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1, "another site is made of it");
        uploads.remove_of(&kept, &[]);
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0);
    }

    #[test]
    fn files_come_a_few_at_once_and_until_there_is_no_more_room() {
        let folder = tempfile::tempdir().unwrap();
        let uploads = Uploads::new(folder.path(), 1, 1);
        let arriving: Vec<_> = (0..AT_ONCE).map(|_| uploads.begin().unwrap()).collect();
        assert!(matches!(uploads.begin(), Err(UploadError::Busy)));
        drop(arriving);
        let arriving = uploads.begin().unwrap();
        std::fs::write(&arriving.part, vec![b'x'; 1 << 20]).unwrap();
        assert!(matches!(uploads.begin(), Err(UploadError::Full(_))));
        std::fs::remove_file(&arriving.part).unwrap();
        // An archive may be no larger than the room that is left once it is unpacked.
        let page = |size: usize| vec![("index.html".to_owned(), vec![b' '; size])];
        for (size, fits) in [(900_000, true), (2_000_000, false)] {
            let arriving = uploads.begin().unwrap();
            std::fs::write(&arriving.part, strelm_formats::archive::pack(page(size)).unwrap()).unwrap();
            assert_eq!(uploads.keep(&arriving, "site.zip").is_ok(), fits, "{size}");
        }
        // Two that each fit, and not both.
        let folder = tempfile::tempdir().unwrap();
        let uploads = Uploads::new(folder.path(), 1, 1);
        let both = [uploads.begin().unwrap(), uploads.begin().unwrap()];
        for arriving in &both {
            std::fs::write(&arriving.part, strelm_formats::archive::pack(page(700_000)).unwrap()).unwrap();
        }
        let kept = both.each_ref().map(|arriving| uploads.keep(arriving, "site.zip").is_ok());
        assert_eq!((kept, std::fs::read_dir(folder.path()).unwrap().count()), ([true, false], 1));
    }
}
