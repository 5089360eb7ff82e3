//! Web archives: WARC after ISO 28500, plain or packed with gzip. What a site answered when somebody captured it.
//!
//! The reading is our own, since an archive is hostile input: no line, head or record is read further than its limit.

mod chunks;

use std::io::{self, BufRead, BufReader, Read};

use flate2::bufread::MultiGzDecoder;
use flate2::read::{DeflateDecoder, GzDecoder, ZlibDecoder};

use self::chunks::{Chunks, starts_with_a_chunk};
use crate::archive::{ArchiveError, ArchiveLimits, Counted};

/// Fields of a record, and the head of an answer, are no longer than this.
const LONGEST_HEAD: u64 = 64 << 10;

/// Records of all kinds; most of an archive are requests and notes about them.
const MOST_RECORDS_A_FILE: usize = 8;

/// What a site answered at an address.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Capture {
    pub address: String,
    pub status: u16,
    /// In lower case, without parameters.
    pub media_type: String,
    /// The encoding that came with it.
    pub charset: Option<String>,
    /// Where a redirect leads, as written.
    pub location: Option<String>,
}

/// Whether a file is a web archive, packed or not. Reads a few bytes.
pub fn is_warc(file: &mut impl Read) -> bool {
    let mut start = Vec::new();
    if file.take(4096).read_to_end(&mut start).is_err() {
        return false;
    }
    let mut unpacked = [0; 5];
    match start.starts_with(&[0x1f, 0x8b]) {
        true => GzDecoder::new(&start[..]).read_exact(&mut unpacked).is_ok_and(|()| &unpacked == b"WARC/"),
        false => start.starts_with(b"WARC/"),
    }
}

/// Gives each captured answer, in the order of the archive, with its content as a browser would have it. What `keep`
/// does not read is skipped. O(bytes unpacked); memory does not depend on the archive.
///
/// # Errors
/// [`ArchiveError`]; `keep` may have got some answers by then.
pub fn read(
    archive: impl Read,
    limits: ArchiveLimits,
    keep: impl FnMut(&Capture, &mut dyn Read) -> io::Result<()>,
) -> Result<usize, ArchiveError> {
    let mut archive = BufReader::with_capacity(64 << 10, archive);
    let is_packed = archive.fill_buf().map_err(damaged)?.starts_with(&[0x1f, 0x8b]);
    let reading = Reading { limits, keep, captures: 0, bytes: 0 };
    if is_packed {
        // Each record is a gzip member of its own.
        reading.all(&mut BufReader::with_capacity(64 << 10, MultiGzDecoder::new(archive)))
    } else {
        reading.all(&mut archive)
    }
}

struct Reading<K> {
    limits: ArchiveLimits,
    keep: K,
    captures: usize,
    /// Content given out so far.
    bytes: u64,
}

/// The fields of a record that matter.
#[derive(Default)]
struct Record {
    kind: String,
    address: String,
    media_type: String,
    length: u64,
}

impl<K: FnMut(&Capture, &mut dyn Read) -> io::Result<()>> Reading<K> {
    fn all(mut self, archive: &mut impl BufRead) -> Result<usize, ArchiveError> {
        let mut records = 0;
        // Whatever is packed, so much comes out and no more.
        let mut left = self.limits.most_bytes;
        while let Some(record) = head(archive)? {
            records += 1;
            if records > self.limits.most_files.saturating_mul(MOST_RECORDS_A_FILE) {
                return Err(ArchiveError::TooManyFiles(self.limits.most_files));
            }
            left = left.checked_sub(record.length).ok_or(ArchiveError::TooLarge(self.limits.most_bytes >> 20))?;
            let mut block = archive.take(record.length);
            self.record(&record, &mut block)?;
            let length = block.limit();
            if io::copy(&mut block, &mut io::sink()).map_err(damaged)? < length {
                return Err(ArchiveError::Damaged("it ends in the middle of a record".to_owned()));
            }
        }
        Ok(self.captures)
    }

    fn record(&mut self, record: &Record, block: &mut impl BufRead) -> Result<(), ArchiveError> {
        match record.kind.as_str() {
            "response" if record.media_type.starts_with("application/http") => {
                let Some(answer) = Answer::read(block)? else { return Ok(()) };
                let mut content = answer.content(block);
                self.give(&answer.capture(&record.address), &mut content)
            }
            "resource" => {
                let (media_type, charset) = media_type_of(&record.media_type);
                let address = record.address.clone();
                self.give(&Capture { address, status: 200, media_type, charset, location: None }, block)
            }
            _ => Ok(()),
        }
    }

    fn give(&mut self, capture: &Capture, content: &mut dyn Read) -> Result<(), ArchiveError> {
        self.captures += 1;
        if self.captures > self.limits.most_files {
            return Err(ArchiveError::TooManyFiles(self.limits.most_files));
        }
        let left = self.limits.most_bytes.saturating_sub(self.bytes);
        let most = self.limits.most_bytes_a_file.min(left);
        // Content may be packed once more: bytes are counted as they come out.
        let mut counted = Counted { inner: content, left: most + 1, count: 0 };
        let kept = (self.keep)(capture, &mut counted);
        self.bytes += counted.count;
        if counted.count > most {
            return Err(match most == left {
                true => ArchiveError::TooLarge(self.limits.most_bytes >> 20),
                false => ArchiveError::FileTooLarge {
                    name: capture.address.chars().take(80).collect(),
                    most: self.limits.most_bytes_a_file >> 20,
                },
            });
        }
        kept.map_err(|error| match error.kind() {
            io::ErrorKind::InvalidData | io::ErrorKind::InvalidInput | io::ErrorKind::UnexpectedEof => damaged(error),
            _ => ArchiveError::Keep(error),
        })
    }
}

/// The next record's fields; `None` at the end of the archive.
fn head(archive: &mut impl BufRead) -> Result<Option<Record>, ArchiveError> {
    let mut left = LONGEST_HEAD;
    let version = loop {
        let Some(line) = line(archive, &mut left)? else { return Ok(None) };
        if !line.is_empty() {
            break line;
        }
    };
    if !version.starts_with("WARC/") {
        return Err(ArchiveError::Damaged("a record does not begin where one should".to_owned()));
    }
    let mut record = Record::default();
    let mut length = None;
    loop {
        let line = line(archive, &mut left)?;
        let line = line.ok_or_else(|| ArchiveError::Damaged("it ends in the middle of a record".to_owned()))?;
        if line.is_empty() {
            break;
        }
        let Some((name, value)) = line.split_once(':') else { continue };
        let value = value.trim();
        match name.trim().to_ascii_lowercase().as_str() {
            "warc-type" => record.kind = value.to_ascii_lowercase(),
            // Older archives write the address between brackets.
            "warc-target-uri" => record.address = value.trim_matches(['<', '>']).to_owned(),
            "content-type" => record.media_type = value.to_ascii_lowercase(),
            "content-length" => length = value.parse().ok(),
            _ => {}
        }
    }
    record.length = length.ok_or_else(|| ArchiveError::Damaged("a record does not say how long it is".to_owned()))?;
    Ok(Some(record))
}

/// A line without its end; `None` at the end. Takes its bytes from `left`.
fn line(from: &mut impl BufRead, left: &mut u64) -> Result<Option<String>, ArchiveError> {
    let mut bytes = Vec::new();
    from.take(*left).read_until(b'\n', &mut bytes).map_err(damaged)?;
    if bytes.is_empty() && *left > 0 {
        return Ok(None);
    }
    *left -= bytes.len() as u64;
    if bytes.last() != Some(&b'\n') && *left == 0 {
        return Err(ArchiveError::Damaged("the head of a record is far too long".to_owned()));
    }
    Ok(Some(String::from_utf8_lossy(&bytes).trim_end_matches(['\r', '\n']).to_owned()))
}

/// The head of an HTTP answer.
#[derive(Default)]
struct Answer {
    status: u16,
    media_type: String,
    location: Option<String>,
    is_chunked: bool,
    /// How the content is packed, in lower case.
    packing: String,
}

impl Answer {
    /// `None` when there is no HTTP answer in the record.
    fn read(block: &mut impl BufRead) -> Result<Option<Self>, ArchiveError> {
        let mut left = LONGEST_HEAD;
        let Some(first) = line(block, &mut left)?.filter(|line| line.starts_with("HTTP/")) else { return Ok(None) };
        let status = first.split_ascii_whitespace().nth(1).and_then(|status| status.parse().ok());
        let Some(status) = status else { return Ok(None) };
        let mut answer = Self { status, ..Self::default() };
        while let Some(line) = line(block, &mut left)?.filter(|line| !line.is_empty()) {
            let Some((name, value)) = line.split_once(':') else { continue };
            let value = value.trim();
            match name.trim().to_ascii_lowercase().as_str() {
                "content-type" => answer.media_type = value.to_owned(),
                "location" => answer.location = Some(value.to_owned()),
                "transfer-encoding" => answer.is_chunked |= value.to_ascii_lowercase().contains("chunked"),
                "content-encoding" => answer.packing = value.to_ascii_lowercase(),
                _ => {}
            }
        }
        Ok(Some(answer))
    }

    fn capture(&self, address: &str) -> Capture {
        let (media_type, charset) = media_type_of(&self.media_type);
        let (address, location) = (address.to_owned(), self.location.clone());
        Capture { address, status: self.status, media_type, charset, location }
    }

    fn content<'b>(&self, block: &'b mut impl BufRead) -> Box<dyn Read + 'b> {
        // Many programs write what they unpacked, and leave the head as it came.
        let is_chunked = self.is_chunked && block.fill_buf().is_ok_and(starts_with_a_chunk);
        let mut body: Box<dyn BufRead + 'b> =
            if is_chunked { Box::new(BufReader::new(Chunks::of(block))) } else { Box::new(block) };
        let start = body.fill_buf().map(|bytes| bytes.get(..2).unwrap_or_default().to_vec()).unwrap_or_default();
        match self.packing.as_str() {
            "gzip" | "x-gzip" if start == [0x1f, 0x8b] => Box::new(GzDecoder::new(body)),
            "deflate" if start.first().is_some_and(|byte| byte & 0x0f == 8) => Box::new(ZlibDecoder::new(body)),
            "deflate" => Box::new(DeflateDecoder::new(body)),
            "br" => Box::new(brotli_decompressor::Decompressor::new(body, 4096)),
            _ => body,
        }
    }
}

/// The media type in lower case, and the encoding that its parameters name.
fn media_type_of(value: &str) -> (String, Option<String>) {
    let (kind, parameters) = value.split_once(';').unwrap_or((value, ""));
    let charset = parameters.split(';').find_map(|parameter| {
        let (name, value) = parameter.split_once('=')?;
        name.trim().eq_ignore_ascii_case("charset").then(|| value.trim().trim_matches(['"', '\'']).to_owned())
    });
    (kind.trim().to_ascii_lowercase(), charset)
}

fn damaged(error: io::Error) -> ArchiveError {
    ArchiveError::Damaged(error.to_string())
}

#[cfg(test)]
mod tests {
    use std::io::Write;

    use super::*;

    fn gzip(bytes: &[u8]) -> Vec<u8> {
        let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        packer.write_all(bytes).unwrap();
        packer.finish().unwrap()
    }

    fn record(kind: &str, address: &str, media_type: &str, block: &[u8]) -> Vec<u8> {
        let head = format!(
            "WARC/1.1\r\nWARC-Type: {kind}\r\nWARC-Target-URI: {address}\r\nContent-Type: {media_type}\r\nContent-Length: {}\r\n\r\n",
            block.len()
        );
        [head.as_bytes(), block, b"\r\n\r\n"].concat()
    }

    fn answer(address: &str, head: &str, body: &[u8]) -> Vec<u8> {
        let block = [format!("HTTP/1.1 {head}\r\n\r\n").as_bytes(), body].concat();
        record("response", address, "application/http; msgtype=response", &block)
    }

    fn records() -> [Vec<u8>; 7] {
        let packed = gzip(b"<p>Packed");
        let chunks = [format!("{:x}\r\n", packed.len()).as_bytes(), &packed, b"\r\n0\r\n\r\n"].concat();
        [
            record("warcinfo", "", "application/warc-fields", b"software: made up\r\n"),
            answer("http://sky.example/", "200 OK\r\nContent-Type: text/html; charset=\"latin1\"", b"<p>\xe9"),
            record("request", "http://sky.example/", "application/http; msgtype=request", b"GET / HTTP/1.1\r\n\r\n"),
            answer("<http://sky.example/old>", "301 Moved\r\nLocation: /new", b""),
            answer(
                "http://sky.example/a",
                "200 OK\r\ncontent-type:text/html\r\nTransfer-Encoding: chunked",
                b"5;x=1\r\n<p>Hi\r\n6\r\n there\r\n0\r\n\r\n",
            ),
            answer("http://sky.example/b", "200 OK\r\nContent-Encoding: gzip\r\nTransfer-Encoding: chunked", &chunks),
            record("resource", "http://sky.example/c.css", "text/css", b"p{}"),
        ]
    }

    fn all(bytes: &[u8], limits: ArchiveLimits) -> Result<Vec<(Capture, Vec<u8>)>, ArchiveError> {
        let mut found = Vec::new();
        read(bytes, limits, |capture, content| {
            let mut bytes = Vec::new();
            content.read_to_end(&mut bytes)?;
            found.push((capture.clone(), bytes));
            Ok(())
        })?;
        Ok(found)
    }

    #[test]
    fn captures_are_read_packed_and_plain_alike() {
        let plain = records().concat();
        let packed = records().iter().map(|record| gzip(record)).collect::<Vec<_>>().concat();
        assert!(is_warc(&mut &plain[..]) && is_warc(&mut &packed[..]) && !is_warc(&mut &gzip(b"tar")[..]));
        let found = all(&plain, ArchiveLimits::default()).unwrap();
        assert_eq!(all(&packed, ArchiveLimits::default()).unwrap(), found);
        let told: Vec<_> = found.iter().map(|(c, body)| (c.address.as_str(), c.status, body.as_slice())).collect();
        let expected: [(&str, u16, &[u8]); 5] = [
            ("http://sky.example/", 200, b"<p>\xe9"),
            ("http://sky.example/old", 301, b""),
            ("http://sky.example/a", 200, b"<p>Hi there"),
            ("http://sky.example/b", 200, b"<p>Packed"),
            ("http://sky.example/c.css", 200, b"p{}"),
        ];
        assert_eq!(told, expected);
        assert_eq!(found[0].0.charset.as_deref(), Some("latin1"));
        assert_eq!(found[1].0.location.as_deref(), Some("/new"));
        assert_eq!(found[4].0.media_type, "text/css");
    }

    #[test]
    fn what_was_unpacked_by_whoever_wrote_it_is_read_although_its_head_says_otherwise() {
        let head = "200 OK\r\nContent-Encoding: gzip\r\nTransfer-Encoding: chunked";
        let found = all(&answer("http://sky.example/", head, b"<p>Hi"), ArchiveLimits::default()).unwrap();
        assert_eq!(found[0].1, b"<p>Hi");
    }

    #[test]
    fn bombs_and_damage_are_told() {
        let head = "200 OK\r\nContent-Encoding: gzip";
        let bomb = answer("http://sky.example/", head, &gzip(&vec![b' '; 3 << 20]));
        let small = ArchiveLimits { most_bytes_a_file: 1 << 20, ..ArchiveLimits::default() };
        assert!(matches!(all(&bomb, small), Err(ArchiveError::FileTooLarge { .. })));
        let few = ArchiveLimits { most_bytes: 1 << 20, ..ArchiveLimits::default() };
        assert!(matches!(all(&bomb, few), Err(ArchiveError::TooLarge(1))));
        let count = ArchiveLimits { most_files: 2, ..ArchiveLimits::default() };
        assert!(matches!(all(&records().concat(), count), Err(ArchiveError::TooManyFiles(2))));
        let long = [b"WARC/1.0\r\nX: ".to_vec(), vec![b'x'; 1 << 20]].concat();
        assert!(matches!(all(&gzip(&long), ArchiveLimits::default()), Err(ArchiveError::Damaged(_))));
        let whole = records().concat();
        assert!(matches!(all(&whole[..whole.len() - 8], ArchiveLimits::default()), Err(ArchiveError::Damaged(_))));
        let endless = b"WARC/1.0\r\nContent-Length: 99999999999999\r\n\r\n";
        assert!(matches!(all(endless, ArchiveLimits::default()), Err(ArchiveError::TooLarge(_))));
    }

    proptest::proptest! {
        #[test]
        fn arbitrary_bytes_never_panic(bytes in proptest::collection::vec(proptest::prelude::any::<u8>(), 0..200), at in 0usize..900) {
            let mut mixed = records().concat();
            let at = at % mixed.len();
            let end = (at + bytes.len()).min(mixed.len());
            mixed.splice(at..end, bytes.clone());
            let _ = all(&mixed, ArchiveLimits::default());
            let _ = all(&bytes, ArchiveLimits::default());
        }
    }
}
