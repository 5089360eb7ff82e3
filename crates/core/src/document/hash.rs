//! The identity of one version of a page's source.

use std::fmt;

/// BLAKE3 of the source bytes.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
pub struct ContentHash([u8; 32]);

impl ContentHash {
    /// O(n) in the bytes of `source`.
    pub fn of(source: &str) -> Self {
        Self(*blake3::hash(source.as_bytes()).as_bytes())
    }

    /// The 32 bytes of the hash.
    pub fn as_bytes(&self) -> &[u8] {
        &self.0
    }

    /// The reverse of its display: 64 hexadecimal digits. `None` when `text` is something else.
    pub fn parse(text: &str) -> Option<Self> {
        let digits: Option<Vec<u8>> = text.chars().map(|c| u8::try_from(c.to_digit(16)?).ok()).collect();
        let digits = digits.filter(|digits| digits.len() == 64)?;
        Self::from_bytes(&digits.chunks(2).map(|pair| pair[0] * 16 + pair[1]).collect::<Vec<_>>())
    }

    /// The reverse of [`ContentHash::as_bytes`]; `None` when `bytes` is not 32 long.
    pub fn from_bytes(bytes: &[u8]) -> Option<Self> {
        bytes.try_into().ok().map(Self)
    }
}

impl fmt::Display for ContentHash {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.iter().try_for_each(|byte| write!(f, "{byte:02x}"))
    }
}

impl fmt::Debug for ContentHash {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "ContentHash({self})")
    }
}
