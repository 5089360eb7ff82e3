//! From the raw bytes of a text or an attribute to characters, each with its place.

use std::borrow::Cow;

use memchr::memchr3;

use super::tokenizer::TextMode;
use crate::document::run::RunKind;
use crate::document::span::SourceSpan;

/// A stretch of decoded text and the part of the raw text that it came from.
#[derive(Debug, PartialEq, Eq)]
pub struct Piece<'a> {
    pub text: Cow<'a, str>,
    /// Byte offsets into the raw text.
    pub raw: SourceSpan,
    pub kind: RunKind,
}

/// No named character reference of the HTML standard is longer.
const LONGEST_REFERENCE: usize = 34;

/// Gives raw text piece by piece, split at what is not its own bytes: character references, line ends other than a line
/// feed, and NUL.
///
/// O(n): at each `&` no more than [`LONGEST_REFERENCE`] bytes are looked at, but for numbers of any length.
pub fn each_piece<'a>(raw: &'a str, mode: TextMode, mut give: impl FnMut(Piece<'a>)) {
    let references = matches!(mode, TextMode::Data | TextMode::Escapable);
    let bytes = raw.as_bytes();
    let (mut plain, mut at) = (0, 0);
    while let Some(found) = memchr3(b'&', b'\r', 0, bytes.get(at..).unwrap_or_default()) {
        at += found;
        let unit: Option<(Cow<'a, str>, usize)> = match bytes[at] {
            b'&' if references => reference(&raw[at..], false).map(|(text, len)| (text.into(), len)),
            b'&' => None,
            b'\r' => Some(("\n".into(), if bytes.get(at + 1) == Some(&b'\n') { 2 } else { 1 })),
            _ if mode == TextMode::Data => Some(("".into(), 1)),
            _ if mode == TextMode::Verbatim => None,
            _ => Some(("\u{fffd}".into(), 1)),
        };
        let Some((text, length)) = unit else {
            at += 1;
            continue;
        };
        verbatim(raw, plain, at, &mut give);
        give(Piece { text, raw: SourceSpan::new(at, at + length), kind: RunKind::Unit });
        at += length;
        plain = at;
    }
    verbatim(raw, plain, raw.len(), &mut give);
}

fn verbatim<'a>(raw: &'a str, start: usize, end: usize, give: &mut impl FnMut(Piece<'a>)) {
    if start < end {
        give(Piece { text: raw[start..end].into(), raw: SourceSpan::new(start, end), kind: RunKind::Verbatim });
    }
}

/// The value of an attribute. O(n); nothing is copied where bytes are characters.
pub fn attribute_value(raw: &str) -> Cow<'_, str> {
    let bytes = raw.as_bytes();
    if memchr3(b'&', b'\r', 0, bytes).is_none() {
        return raw.into();
    }
    let mut value = String::with_capacity(raw.len());
    let (mut plain, mut at) = (0, 0);
    while let Some(found) = memchr3(b'&', b'\r', 0, bytes.get(at..).unwrap_or_default()) {
        at += found;
        let unit = match bytes[at] {
            b'&' => reference(&raw[at..], true),
            b'\r' => Some(("\n".to_owned(), if bytes.get(at + 1) == Some(&b'\n') { 2 } else { 1 })),
            _ => Some(("\u{fffd}".to_owned(), 1)),
        };
        let Some((text, length)) = unit else {
            at += 1;
            continue;
        };
        value.push_str(&raw[plain..at]);
        value.push_str(&text);
        at += length;
        plain = at;
    }
    value.push_str(&raw[plain..]);
    value.into()
}

/// The character reference at the start of `raw` and the bytes that it takes.
///
/// The table of references is a library's, which takes the longest name that fits and leaves the rest of what it is
/// given; how much it took follows from what it left.
fn reference(raw: &str, in_attribute: bool) -> Option<(String, usize)> {
    let bytes = raw.as_bytes();
    if bytes.get(1) == Some(&b'#') {
        return number(bytes);
    }
    let name_end = bytes
        .iter()
        .skip(1)
        .position(|byte| !byte.is_ascii_alphanumeric())
        .map_or(raw.len(), |found| found + 1)
        .min(LONGEST_REFERENCE);
    let semicolon = usize::from(bytes.get(name_end) == Some(&b';'));
    let candidate = &raw[..name_end + semicolon];
    let decoded = htmlize::unescape(candidate);
    if decoded == candidate {
        return None;
    }
    let (text, length) = [1, 2].into_iter().find_map(|characters| {
        let end = decoded.char_indices().nth(characters).map_or(decoded.len(), |(at, _)| at);
        let (text, left) = decoded.split_at(end);
        candidate.ends_with(left).then(|| (text.to_owned(), candidate.len() - left.len()))
    })?;
    let next = bytes.get(length);
    let is_part_of_a_word = next.is_some_and(|byte| *byte == b'=' || byte.is_ascii_alphanumeric());
    // As old pages write addresses with `&copy=1`.
    let kept = in_attribute && !candidate[..length].ends_with(';') && is_part_of_a_word;
    (!kept).then_some((text, length))
}

/// A number after `&#`, as the standard mends it.
fn number(bytes: &[u8]) -> Option<(String, usize)> {
    let (radix, digits) = match bytes.get(2) {
        Some(b'x' | b'X') => (16, 3),
        _ => (10, 2),
    };
    let count = bytes[digits.min(bytes.len())..].iter().take_while(|byte| char::from(**byte).is_digit(radix)).count();
    if count == 0 {
        return None;
    }
    let end = digits + count;
    let value = bytes[digits..end].iter().fold(0u32, |value, byte| {
        value.saturating_mul(radix).saturating_add(char::from(*byte).to_digit(radix).unwrap_or_default())
    });
    let semicolon = usize::from(bytes.get(end) == Some(&b';'));
    Some((character(value).to_string(), end + semicolon))
}

/// What windows-1252 had at 0x80 to 0x9F; 0 where it had nothing.
const WINDOWS_1252: [u16; 32] = [
    0x20AC, 0, 0x201A, 0x0192, 0x201E, 0x2026, 0x2020, 0x2021, 0x02C6, 0x2030, 0x0160, 0x2039, 0x0152, 0, 0x017D, 0, 0,
    0x2018, 0x2019, 0x201C, 0x201D, 0x2022, 0x2013, 0x2014, 0x02DC, 0x2122, 0x0161, 0x203A, 0x0153, 0, 0x017E, 0x0178,
];

fn character(value: u32) -> char {
    let mended = match value {
        0 => 0xFFFD,
        0x80..=0x9F => match WINDOWS_1252[(value - 0x80) as usize] {
            0 => value,
            other => u32::from(other),
        },
        other => other,
    };
    char::from_u32(mended).unwrap_or(char::REPLACEMENT_CHARACTER)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn texts(raw: &str) -> Vec<(String, &str)> {
        let mut pieces = Vec::new();
        each_piece(raw, TextMode::Data, |piece| pieces.push((piece.text.into_owned(), &raw[piece.raw.range()])));
        pieces
    }

    #[test]
    fn references_know_their_bytes() {
        assert_eq!(
            texts("a &amp; b&#8212;c"),
            [
                ("a ".into(), "a "),
                ("&".into(), "&amp;"),
                (" b".into(), " b"),
                ("—".into(), "&#8212;"),
                ("c".into(), "c")
            ]
        );
    }

    #[test]
    fn a_reference_without_semicolon_takes_only_its_name() {
        assert_eq!(texts("&notit"), [("¬".into(), "&not"), ("it".into(), "it")]);
    }

    #[test]
    fn an_ampersand_that_is_no_reference_stays() {
        assert_eq!(texts("R&D & Q&A"), [("R&D & Q&A".into(), "R&D & Q&A")]);
    }

    #[test]
    fn parameters_of_an_address_are_no_references() {
        assert_eq!(attribute_value("/?a=1&copy=2&amp;b=3&lt"), "/?a=1&copy=2&b=3<");
    }
}
