//! How a body is packed on its way: read and written again as it passes.

use std::io::{self, Write};

use flate2::Compression;
use flate2::write::{GzEncoder, MultiGzDecoder};

/// Bytes that Brotli works on at once.
const BUFFER: usize = 4096;
/// A page is packed while somebody waits for it.
const BROTLI_QUALITY: u32 = 4;
const BROTLI_WINDOW: u32 = 19;
const GZIP_LEVEL: u32 = 4;

/// How a body is packed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Coding {
    Identity,
    Gzip,
    Brotli,
}

impl Coding {
    /// What `Content-Encoding` says; `None` for what is not understood.
    pub fn of(header: Option<&str>) -> Option<Self> {
        match header.map(|header| header.trim().to_ascii_lowercase()).as_deref() {
            None | Some("" | "identity") => Some(Self::Identity),
            Some("gzip" | "x-gzip") => Some(Self::Gzip),
            Some("br") => Some(Self::Brotli),
            Some(_) => None,
        }
    }
}

/// Unpacks what is written to it into a sink.
pub enum Unpacking<W: Write> {
    Identity(W),
    Gzip(Box<MultiGzDecoder<W>>),
    Brotli(Box<brotli::DecompressorWriter<W>>),
}

impl<W: Write> Unpacking<W> {
    pub fn of(coding: Coding, sink: W) -> Self {
        match coding {
            Coding::Identity => Self::Identity(sink),
            Coding::Gzip => Self::Gzip(Box::new(MultiGzDecoder::new(sink))),
            Coding::Brotli => Self::Brotli(Box::new(brotli::DecompressorWriter::new(sink, BUFFER))),
        }
    }

    /// Unpacks some bytes.
    ///
    /// # Errors
    /// When they are not packed as they say.
    pub fn push(&mut self, bytes: &[u8]) -> io::Result<()> {
        match self {
            Self::Identity(sink) => sink.write_all(bytes),
            Self::Gzip(decoder) => decoder.write_all(bytes),
            Self::Brotli(decoder) => decoder.write_all(bytes),
        }
    }

    /// All bytes were there.
    ///
    /// # Errors
    /// When they were not.
    pub fn end(&mut self) -> io::Result<()> {
        match self {
            Self::Identity(_) => Ok(()),
            Self::Gzip(decoder) => decoder.try_finish(),
            Self::Brotli(decoder) => decoder.close(),
        }
    }

    pub fn sink(&mut self) -> &mut W {
        match self {
            Self::Identity(sink) => sink,
            Self::Gzip(decoder) => decoder.get_mut(),
            Self::Brotli(decoder) => decoder.get_mut(),
        }
    }
}

/// Packs what is written to it.
pub enum Packing {
    Identity(Vec<u8>),
    Gzip(Box<GzEncoder<Vec<u8>>>),
    Brotli(Box<brotli::CompressorWriter<Vec<u8>>>),
}

impl Packing {
    pub fn of(coding: Coding) -> Self {
        match coding {
            Coding::Identity => Self::Identity(Vec::new()),
            Coding::Gzip => Self::Gzip(Box::new(GzEncoder::new(Vec::new(), Compression::new(GZIP_LEVEL)))),
            Coding::Brotli => {
                Self::Brotli(Box::new(brotli::CompressorWriter::new(Vec::new(), BUFFER, BROTLI_QUALITY, BROTLI_WINDOW)))
            }
        }
    }

    pub fn push(&mut self, bytes: &[u8]) -> io::Result<()> {
        match self {
            Self::Identity(out) => out.write_all(bytes),
            Self::Gzip(encoder) => encoder.write_all(bytes),
            Self::Brotli(encoder) => encoder.write_all(bytes),
        }
    }

    /// Where bytes go that are not packed.
    pub fn plain(&mut self) -> Option<&mut Vec<u8>> {
        match self {
            Self::Identity(out) => Some(out),
            Self::Gzip(_) | Self::Brotli(_) => None,
        }
    }

    /// What is packed so far, so that whoever reads it can unpack all that was written.
    pub fn take(&mut self) -> io::Result<Vec<u8>> {
        match self {
            Self::Identity(out) => Ok(std::mem::take(out)),
            Self::Gzip(encoder) => {
                encoder.flush()?;
                Ok(std::mem::take(encoder.get_mut()))
            }
            Self::Brotli(encoder) => {
                encoder.flush()?;
                Ok(std::mem::take(encoder.get_mut()))
            }
        }
    }

    /// The rest.
    pub fn end(self) -> io::Result<Vec<u8>> {
        match self {
            Self::Identity(out) => Ok(out),
            Self::Gzip(encoder) => encoder.finish(),
            Self::Brotli(encoder) => Ok(encoder.into_inner()),
        }
    }
}
