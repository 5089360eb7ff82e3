//! Tags that are written as tags mostly are: all there, and with quotes after `=` alone. Their ends are found by the letters that
//! may end them; all others are gone through byte by byte.

use memchr::{memchr, memchr3};

/// A tag at the begin of some bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct PlainTag<'b> {
    /// As it is written.
    pub name: &'b [u8],
    pub is_end: bool,
    pub closes_itself: bool,
    /// Up to after its `>`.
    pub length: usize,
}

pub(super) const fn is_space(byte: u8) -> bool {
    matches!(byte, b'\t' | b'\n' | b'\x0c' | b'\r' | b' ')
}

/// Whether the name of a tag is over.
pub(super) const fn ends_name(byte: u8) -> bool {
    is_space(byte) || matches!(byte, b'/' | b'>')
}

impl<'b> PlainTag<'b> {
    /// The tag that begins with these bytes. `None` where there is none, or it is not a plain one. O(length of the tag).
    pub fn at(bytes: &'b [u8]) -> Option<Self> {
        let is_end = *bytes.get(1)? == b'/';
        let start = 1 + usize::from(is_end);
        if bytes[0] != b'<' || !bytes.get(start)?.is_ascii_alphabetic() {
            return None;
        }
        let mut at = start;
        let end = loop {
            let next = at + memchr3(b'>', b'"', b'\'', &bytes[at..])?;
            match bytes[next] {
                b'>' => break next,
                quote if opens_value(&bytes[..next]) => at = next + 1 + memchr(quote, &bytes[next + 1..])? + 1,
                _ => return None,
            }
        };
        let closes_itself = bytes[end - 1] == b'/';
        if closes_itself && !is_space(bytes[end - 2]) && !matches!(bytes[end - 2], b'"' | b'\'') {
            // It may be the end of a value, too.
            return None;
        }
        let length = bytes[start..end].iter().take_while(|byte| !ends_name(**byte)).count();
        Some(Self { name: &bytes[start..start + length], is_end, closes_itself, length: end + 1 })
    }
}

/// Whether a quote after these bytes of a tag opens a value: after the name of an attribute and `=`, which are not themselves a
/// value.
fn opens_value(tag: &[u8]) -> bool {
    let Some(before) = trimmed(tag).strip_suffix(b"=") else { return false };
    let named = trimmed(before);
    let is_name = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_' | b':');
    let length = named.iter().rev().take_while(|byte| is_name(byte)).count();
    let rest = &named[..named.len() - length];
    length > 0 && rest.last().is_some_and(|byte| is_space(*byte)) && !trimmed(rest).ends_with(b"=")
}

/// Without the space at its end.
fn trimmed(bytes: &[u8]) -> &[u8] {
    let space = bytes.iter().rev().take_while(|byte| is_space(**byte)).count();
    &bytes[..bytes.len() - space]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tags_that_are_written_otherwise_are_left_to_who_looks_at_every_byte() {
        let length = |source: &str| PlainTag::at(source.as_bytes()).map(|tag| tag.length);
        for plain in ["<p>", "</p >", "<a href=/x>", "<a href = \"a>b\" title='<b>'>", "<br />", "<img src=\"x\"/>"] {
            assert_eq!(length(&format!("{plain}text>")), Some(plain.len()), "{plain}");
        }
        for other in
            ["<p", "<p class=\"x", "< p>", "<a b\"c>", "<a = \"b>", "<a b= c=\"d>\">", "<a b=c/>", "text", "<", ""]
        {
            assert_eq!(length(other), None, "{other}");
        }
    }
}
