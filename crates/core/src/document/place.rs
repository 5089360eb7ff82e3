//! From the raw bytes between two tags to characters, each with its place.

use super::span::SourceSpan;
use super::text::RunKind;

/// A stretch of decoded text and the part of the raw text that it came from.
#[derive(Debug, PartialEq, Eq)]
pub struct Piece<'a> {
    pub text: std::borrow::Cow<'a, str>,
    /// Byte offsets into the raw text.
    pub raw: SourceSpan,
    pub kind: RunKind,
}

/// No named character reference of the HTML standard is longer.
const LONGEST_REFERENCE: usize = 34;

/// Splits raw text at its character references and two-byte line ends.
///
/// O(n): at each `&` no more than [`LONGEST_REFERENCE`] bytes are looked at.
pub fn pieces(raw: &str, references: bool) -> Vec<Piece<'_>> {
    let mut pieces = Vec::new();
    let mut plain = 0;
    let mut at = 0;
    let bytes = raw.as_bytes();
    while at < bytes.len() {
        let unit = match bytes[at] {
            b'&' if references => reference(&raw[at..]),
            b'\r' => Some(("\n".to_owned(), if bytes.get(at + 1) == Some(&b'\n') { 2 } else { 1 })),
            _ => None,
        };
        let Some((text, len)) = unit else {
            at += 1;
            continue;
        };
        verbatim(&mut pieces, raw, plain, at);
        pieces.push(Piece { text: text.into(), raw: SourceSpan::new(at, at + len), kind: RunKind::Unit });
        at += len;
        plain = at;
    }
    verbatim(&mut pieces, raw, plain, at);
    pieces
}

fn verbatim<'a>(pieces: &mut Vec<Piece<'a>>, raw: &'a str, start: usize, end: usize) {
    if start < end {
        let span = SourceSpan::new(start, end);
        pieces.push(Piece { text: raw[start..end].into(), raw: span, kind: RunKind::Verbatim });
    }
}

/// The character reference at the start of `raw` and the bytes that it takes.
///
/// The table of references is a library's, which takes the longest name that fits and leaves the rest of what it is
/// given; how much it took follows from what it left.
fn reference(raw: &str) -> Option<(String, usize)> {
    let name_end = raw
        .bytes()
        .skip(1)
        .position(|b| !(b.is_ascii_alphanumeric() || b == b'#'))
        .map_or(raw.len(), |i| i + 1)
        .min(LONGEST_REFERENCE);
    let semicolon = usize::from(raw.as_bytes().get(name_end) == Some(&b';'));
    let candidate = &raw[..name_end + semicolon];
    let decoded = htmlize::unescape(candidate);
    if decoded == candidate {
        return None;
    }
    [1, 2].into_iter().find_map(|characters| {
        let end = decoded.char_indices().nth(characters).map_or(decoded.len(), |(i, _)| i);
        let (text, left) = decoded.split_at(end);
        candidate.ends_with(left).then(|| (text.to_owned(), candidate.len() - left.len()))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn texts(raw: &str) -> Vec<(String, &str)> {
        pieces(raw, true).into_iter().map(|p| (p.text.into_owned(), &raw[p.raw.range()])).collect()
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
}
