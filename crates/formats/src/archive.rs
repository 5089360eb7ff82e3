//! Archives of files: ZIP, and tar packed with gzip. They are hostile input: whoever packed them may want to write
//! elsewhere, or to fill the disk.

use std::io::{self, Read, Seek, SeekFrom};

use flate2::read::GzDecoder;
use thiserror::Error;

/// How much an archive may hold.
#[derive(Debug, Clone, Copy)]
pub struct ArchiveLimits {
    pub most_files: usize,
    /// Of a single file, unpacked.
    pub most_bytes_a_file: u64,
    /// Of all files together, unpacked.
    pub most_bytes: u64,
}

impl Default for ArchiveLimits {
    fn default() -> Self {
        Self { most_files: 200_000, most_bytes_a_file: 32 << 20, most_bytes: 4 << 30 }
    }
}

/// A longer name of a tar entry is no name.
const LONGEST_SAYING: u64 = 64 * 1024;

/// Why an archive cannot be unpacked or written.
#[derive(Debug, Error)]
pub enum ArchiveError {
    #[error("the file is neither a ZIP archive nor a tar.gz archive")]
    NotAnArchive,
    #[error("the archive is damaged: {0}")]
    Damaged(String),
    #[error("“{0}” in the archive leads out of it; no such archive is unpacked")]
    LeadsOut(String),
    #[error("the archive is protected by a password")]
    Protected,
    #[error("the archive holds more than {0} files")]
    TooManyFiles(usize),
    #[error("“{name}” in the archive is larger than {most} MB when it is unpacked")]
    FileTooLarge { name: String, most: u64 },
    #[error("the archive is larger than {0} MB when it is unpacked")]
    TooLarge(u64),
    #[error("the files cannot be kept: {0}")]
    Keep(#[source] io::Error),
}

/// Where an entry goes: its relative path with `/` between the parts, and its bytes.
pub trait Keep: FnMut(&str, &mut dyn Read) -> io::Result<()> {}
impl<F: FnMut(&str, &mut dyn Read) -> io::Result<()>> Keep for F {}

/// Gives each file of an archive to `keep`. Folders come by the names of their files, links are left out, and so is what
/// begins with a dot or is a system's own. O(bytes unpacked); memory does not depend on the archive.
///
/// # Errors
/// [`ArchiveError`]; `keep` may have got some files by then.
pub fn unpack(archive: &mut (impl Read + Seek), limits: ArchiveLimits, keep: impl Keep) -> Result<usize, ArchiveError> {
    let mut start = [0; 4];
    let read = archive.read(&mut start).map_err(|error| ArchiveError::Damaged(error.to_string()))?;
    archive.seek(SeekFrom::Start(0)).map_err(|error| ArchiveError::Damaged(error.to_string()))?;
    let unpacking = Unpacking { limits, files: 0, bytes: 0, keep };
    match &start[..read] {
        [b'P', b'K', 3, 4] | [b'P', b'K', 5, 6] => unpacking.zip(archive),
        [0x1f, 0x8b, ..] => unpacking.tar(GzDecoder::new(archive)),
        _ => Err(ArchiveError::NotAnArchive),
    }
}

/// Packs files into a ZIP archive. O(bytes), all in memory.
///
/// # Errors
/// [`ArchiveError::Keep`] when a name cannot stand in an archive.
pub fn pack(files: impl IntoIterator<Item = (String, Vec<u8>)>) -> Result<Vec<u8>, ArchiveError> {
    let failed = |error: zip::result::ZipError| ArchiveError::Keep(io::Error::other(error.to_string()));
    let mut writer = zip::ZipWriter::new(io::Cursor::new(Vec::new()));
    for (name, bytes) in files {
        writer.start_file(name, zip::write::SimpleFileOptions::default()).map_err(failed)?;
        io::Write::write_all(&mut writer, &bytes).map_err(ArchiveError::Keep)?;
    }
    Ok(writer.finish().map_err(failed)?.into_inner())
}

struct Unpacking<K> {
    limits: ArchiveLimits,
    files: usize,
    bytes: u64,
    keep: K,
}

impl<K: Keep> Unpacking<K> {
    fn zip(mut self, archive: impl Read + Seek) -> Result<usize, ArchiveError> {
        let mut archive = zip::ZipArchive::new(archive).map_err(damaged)?;
        if archive.len() > self.limits.most_files {
            return Err(ArchiveError::TooManyFiles(self.limits.most_files));
        }
        for index in 0..archive.len() {
            let mut entry = archive.by_index(index).map_err(damaged)?;
            if entry.is_dir() || entry.is_symlink() {
                continue;
            }
            let name = entry.name().to_owned();
            self.file(&name, &mut entry)?;
        }
        Ok(self.files)
    }

    fn tar(mut self, stream: impl Read) -> Result<usize, ArchiveError> {
        let mut archive = tar::Archive::new(stream);
        let not_tar = |error: io::Error| ArchiveError::Damaged(error.to_string());
        // The library would read a long name as a whole, however long it says it is: entries are taken as they stand.
        let mut long_name: Option<String> = None;
        for entry in archive.entries().map_err(not_tar)?.raw(true) {
            let mut entry = entry.map_err(not_tar)?;
            let kind = entry.header().entry_type();
            if kind.is_gnu_longname() || kind.is_pax_local_extensions() {
                let said = short_text(&mut entry)?;
                let name = if kind.is_gnu_longname() { Some(said) } else { pax_path(&said) };
                long_name = name.or(long_name);
                continue;
            }
            let own = || String::from_utf8_lossy(&entry.path_bytes()).into_owned();
            let name = long_name.take().unwrap_or_else(own);
            if kind.is_file() {
                self.file(&name, &mut entry)?;
            }
        }
        Ok(self.files)
    }

    fn file(&mut self, name: &str, content: &mut dyn Read) -> Result<(), ArchiveError> {
        let Some(path) = safe_path(name)? else { return Ok(()) };
        self.files += 1;
        if self.files > self.limits.most_files {
            return Err(ArchiveError::TooManyFiles(self.limits.most_files));
        }
        let left = self.limits.most_bytes.saturating_sub(self.bytes);
        let most = self.limits.most_bytes_a_file.min(left);
        // What an entry says of its size is not believed: bytes are counted as they come.
        let mut counted = Counted { inner: content, left: most + 1, count: 0 };
        let kept = (self.keep)(&path, &mut counted);
        let count = counted.count;
        if count > most {
            return Err(match most == left {
                true => ArchiveError::TooLarge(self.limits.most_bytes >> 20),
                false => ArchiveError::FileTooLarge { name: path, most: self.limits.most_bytes_a_file >> 20 },
            });
        }
        self.bytes += count;
        kept.map_err(|error| match error.kind() {
            io::ErrorKind::InvalidData | io::ErrorKind::InvalidInput | io::ErrorKind::UnexpectedEof => {
                ArchiveError::Damaged(error.to_string())
            }
            _ => ArchiveError::Keep(error),
        })
    }
}

/// What an entry says of the next one; no honest name is longer than [`LONGEST_SAYING`].
fn short_text(entry: &mut impl Read) -> Result<String, ArchiveError> {
    let mut bytes = Vec::new();
    let read = entry.take(LONGEST_SAYING + 1).read_to_end(&mut bytes);
    read.map_err(|error| ArchiveError::Damaged(error.to_string()))?;
    if bytes.len() as u64 > LONGEST_SAYING {
        return Err(ArchiveError::Damaged("a name in it is far too long".to_owned()));
    }
    Ok(String::from_utf8_lossy(&bytes).trim_end_matches('\0').to_owned())
}

/// The path among the records `LENGTH path=VALUE` of a POSIX extended header.
fn pax_path(records: &str) -> Option<String> {
    let path = |line: &str| line.split_once(' ')?.1.strip_prefix("path=").map(str::to_owned);
    records.lines().find_map(path)
}

/// How many bytes a ZIP archive holds unpacked; `None` when they are more than `most`. The bytes themselves are
/// counted, whatever the archive says of them. O(bytes unpacked), no memory.
///
/// # Errors
/// [`ArchiveError`] when it is none, or damaged.
pub(crate) fn unpacked_size(bytes: &[u8], most: u64) -> Result<Option<u64>, ArchiveError> {
    let mut archive = zip::ZipArchive::new(io::Cursor::new(bytes)).map_err(damaged)?;
    let mut size = 0;
    for index in 0..archive.len() {
        let entry = archive.by_index(index).map_err(damaged)?;
        let read = io::copy(&mut entry.take(most - size + 1), &mut io::sink());
        size += read.map_err(|error| ArchiveError::Damaged(error.to_string()))?;
        if size > most {
            return Ok(None);
        }
    }
    Ok(Some(size))
}

/// Reads no more than a number of bytes and counts them.
pub(crate) struct Counted<'r> {
    pub inner: &'r mut dyn Read,
    pub left: u64,
    pub count: u64,
}

impl Read for Counted<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let most = usize::try_from(self.left).unwrap_or(usize::MAX).min(buffer.len());
        let read = self.inner.read(&mut buffer[..most])?;
        self.left -= read as u64;
        self.count += read as u64;
        Ok(read)
    }
}

fn damaged(error: zip::result::ZipError) -> ArchiveError {
    match error {
        zip::result::ZipError::UnsupportedArchive(why) if why == zip::result::ZipError::PASSWORD_REQUIRED => {
            ArchiveError::Protected
        }
        other => ArchiveError::Damaged(other.to_string()),
    }
}

/// The path of an entry below the place where it is unpacked; `None` for what nobody reads.
fn safe_path(name: &str) -> Result<Option<String>, ArchiveError> {
    let leads_out = || ArchiveError::LeadsOut(name.chars().take(80).collect());
    let name = name.replace('\\', "/");
    let has_drive = name.as_bytes().get(1) == Some(&b':');
    if name.starts_with('/') || has_drive || name.contains('\0') {
        return Err(leads_out());
    }
    let parts: Vec<&str> = name.split('/').filter(|part| !part.is_empty() && *part != ".").collect();
    if parts.contains(&"..") {
        return Err(leads_out());
    }
    let is_hidden = parts.iter().any(|part| part.starts_with('.') || *part == "__MACOSX");
    let is_usable = parts.iter().all(|part| part.len() <= 255) && parts.len() <= 64;
    Ok((!parts.is_empty() && !is_hidden && is_usable).then(|| parts.join("/")))
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;
    use std::io::{Cursor, Write};

    use super::*;

    fn zip_of(files: &[(&str, &[u8])]) -> Vec<u8> {
        let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
        for (name, content) in files {
            writer.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
            writer.write_all(content).unwrap();
        }
        writer.finish().unwrap().into_inner()
    }

    fn tar_of(files: &[(&str, &[u8])]) -> Vec<u8> {
        let packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        let mut builder = tar::Builder::new(packed);
        for (name, content) in files {
            let mut header = tar::Header::new_gnu();
            header.set_size(content.len() as u64);
            // The builder itself refuses paths that lead out.
            let slot = &mut header.as_old_mut().name;
            slot[..name.len()].copy_from_slice(name.as_bytes());
            header.set_cksum();
            builder.append(&header, *content).unwrap();
        }
        builder.into_inner().unwrap().finish().unwrap()
    }

    fn read(bytes: Vec<u8>, limits: ArchiveLimits) -> Result<BTreeMap<String, Vec<u8>>, ArchiveError> {
        let mut files = BTreeMap::new();
        unpack(&mut Cursor::new(bytes), limits, |path: &str, content: &mut dyn Read| {
            let mut bytes = Vec::new();
            content.read_to_end(&mut bytes)?;
            files.insert(path.to_owned(), bytes);
            Ok(())
        })?;
        Ok(files)
    }

    const FILES: [(&str, &[u8]); 4] =
        [("site/index.html", b"<p>Hi"), ("site\\a/b.md", b"# B"), (".git/config", b"x"), ("__MACOSX/._a", b"y")];

    #[test]
    fn both_kinds_give_their_files_and_nothing_hidden() {
        for bytes in [zip_of(&FILES), tar_of(&FILES)] {
            let files = read(bytes, ArchiveLimits::default()).unwrap();
            assert_eq!(files.keys().collect::<Vec<_>>(), ["site/a/b.md", "site/index.html"]);
            assert_eq!(files["site/index.html"], b"<p>Hi");
        }
    }

    #[test]
    fn what_is_packed_is_unpacked_again() {
        let files = [("a/b.html".to_owned(), b"<p>Hi".to_vec()), ("c.md".to_owned(), Vec::new())];
        let read = read(pack(files.clone()).unwrap(), ArchiveLimits::default()).unwrap();
        assert_eq!(read, BTreeMap::from(files));
    }

    #[test]
    fn what_leads_out_is_refused_as_a_whole() {
        for name in ["../evil.html", "a/../../evil.html", "/etc/passwd", "C:/evil.html", "..\\evil.html"] {
            for bytes in [zip_of(&[(name, b"x")]), tar_of(&[(name, b"x")])] {
                let error = read(bytes, ArchiveLimits::default()).unwrap_err();
                assert!(matches!(error, ArchiveError::LeadsOut(_)), "{name}: {error}");
            }
        }
    }

    #[test]
    fn bombs_are_stopped_by_the_bytes_that_come_out() {
        let zeros = vec![0; 3 << 20];
        let files: Vec<_> = (0..8).map(|n| (format!("{n}.html"), zeros.as_slice())).collect();
        let files: Vec<_> = files.iter().map(|(name, content)| (name.as_str(), *content)).collect();
        let small = ArchiveLimits { most_bytes_a_file: 2 << 20, ..ArchiveLimits::default() };
        let few = ArchiveLimits { most_bytes: 10 << 20, ..ArchiveLimits::default() };
        let count = ArchiveLimits { most_files: 4, ..ArchiveLimits::default() };
        for bytes in [zip_of(&files), tar_of(&files)] {
            assert!(bytes.len() < 1_000_000);
            assert!(matches!(read(bytes.clone(), small), Err(ArchiveError::FileTooLarge { .. })));
            assert!(matches!(read(bytes.clone(), few), Err(ArchiveError::TooLarge(10))));
            assert!(matches!(read(bytes, count), Err(ArchiveError::TooManyFiles(4))));
        }
    }

    #[test]
    fn long_names_of_tar_are_read_and_endless_ones_are_not() {
        let packed = |name: &[u8], kind: tar::EntryType| {
            let mut builder = tar::Builder::new(flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast()));
            let mut said = tar::Header::new_gnu();
            said.set_entry_type(kind);
            said.set_size(name.len() as u64);
            said.set_cksum();
            builder.append(&said, name).unwrap();
            let mut header = tar::Header::new_gnu();
            header.set_path("short.html").unwrap();
            header.set_size(1);
            header.set_cksum();
            builder.append(&header, &b"x"[..]).unwrap();
            builder.into_inner().unwrap().finish().unwrap()
        };
        let long = format!("{}/page.html", "folder".repeat(30));
        let record = format!("{} path={long}\n", long.len() + 10);
        let named = [
            packed(format!("{long}\0").as_bytes(), tar::EntryType::GNULongName),
            packed(record.as_bytes(), tar::EntryType::XHeader),
        ];
        for bytes in named {
            let files = read(bytes, ArchiveLimits::default()).unwrap();
            assert_eq!(files.keys().collect::<Vec<_>>(), [&long]);
        }
        let evil = packed(b"../../evil.html\0", tar::EntryType::GNULongName);
        assert!(matches!(read(evil, ArchiveLimits::default()), Err(ArchiveError::LeadsOut(_))));
        let endless = packed(&vec![b'a'; 1 << 20], tar::EntryType::GNULongName);
        assert!(matches!(read(endless, ArchiveLimits::default()), Err(ArchiveError::Damaged(_))));
    }

    #[test]
    fn damaged_and_other_files_say_so() {
        assert!(matches!(read(b"<html>".to_vec(), ArchiveLimits::default()), Err(ArchiveError::NotAnArchive)));
        for bytes in [zip_of(&FILES), tar_of(&FILES)] {
            let cut = bytes[..bytes.len() / 2].to_vec();
            let error = read(cut, ArchiveLimits::default()).unwrap_err();
            assert!(matches!(error, ArchiveError::Damaged(_)), "{error}");
        }
    }

    proptest::proptest! {
        #[test]
        fn arbitrary_bytes_never_panic(bytes in proptest::collection::vec(proptest::prelude::any::<u8>(), 0..300), cut in 0usize..400) {
            let _ = read(bytes.clone(), ArchiveLimits::default());
            let mut mixed = zip_of(&FILES);
            for (at, byte) in bytes.iter().enumerate() {
                let at = (at * 7 + cut) % mixed.len();
                mixed[at] = *byte;
            }
            let _ = read(mixed, ArchiveLimits::default());
        }
    }
}
