//! From the bytes of a page to text and back, in whatever encoding the page has.

use encoding_rs::{DecoderResult, Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};

use super::elements::Element;
use super::html::facts::TagFacts;
use super::html::references::attribute_value;
use super::html::tokenizer::{HtmlToken, Tokenizer};

/// So much of a page is looked at for what it says of its encoding, as the HTML standard asks.
const LOOKED_AT: usize = 1024;

/// How the bytes of a page become text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PageEncoding {
    encoding: &'static Encoding,
    /// Whether the bytes begin with a byte order mark, which is no part of the text.
    has_mark: bool,
}

/// A page's text, and whether its bytes can be had from it again.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Decoded {
    pub text: String,
    pub encoding: PageEncoding,
    /// Whether [`PageEncoding::encode`] of the text gives the very bytes. Where it does, a change of the text changes
    /// no other bytes; where it does not, the page is read and never edited.
    pub is_faithful: bool,
}

impl PageEncoding {
    /// The encoding of a page: by its byte order mark, then by what it came with (`label`, of `Content-Type`), then by
    /// what it says itself, then UTF-8 if it is that, else the encoding of old western pages.
    pub fn of(bytes: &[u8], label: Option<&str>) -> Self {
        if let Some((encoding, _)) = Encoding::for_bom(bytes) {
            return Self { encoding, has_mark: true };
        }
        let labelled = label.and_then(|label| Encoding::for_label(label.trim().as_bytes()));
        // A page that says in ASCII letters that it is UTF-16 is not.
        let said = || said_by(bytes).map(|said| if said == UTF_16BE || said == UTF_16LE { UTF_8 } else { said });
        let guessed = || if std::str::from_utf8(bytes).is_ok() { UTF_8 } else { WINDOWS_1252 };
        Self { encoding: labelled.or_else(said).unwrap_or_else(guessed), has_mark: false }
    }

    /// The name of the encoding, such as `windows-1252`.
    pub fn name(self) -> &'static str {
        self.encoding.name()
    }

    /// Whether characters are of two bytes and more.
    fn is_wide(self) -> bool {
        self.encoding == UTF_16LE || self.encoding == UTF_16BE
    }

    /// How many bytes its mark has.
    fn mark(self) -> usize {
        match self.has_mark {
            true if self.is_wide() => 2,
            true => 3,
            false => 0,
        }
    }

    /// Whether markup is written in bytes of ASCII, each of which is a character.
    pub fn has_ascii_markup(self) -> bool {
        self.encoding.is_ascii_compatible()
    }

    /// Text from the middle of a page as bytes of this encoding; what it cannot say becomes a character reference. O(n).
    pub fn encode_part(self, text: &str) -> Vec<u8> {
        self.encoding.encode(text).0.into_owned()
    }

    /// Text as bytes of this encoding; what it cannot say becomes a character reference. O(n).
    pub fn encode(self, text: &str) -> Vec<u8> {
        let units = |to_bytes: fn(u16) -> [u8; 2]| {
            let mark = self.has_mark.then_some(0xFEFF);
            mark.into_iter().chain(text.encode_utf16()).flat_map(to_bytes).collect()
        };
        if self.encoding == UTF_16LE {
            return units(u16::to_le_bytes);
        }
        if self.encoding == UTF_16BE {
            return units(u16::to_be_bytes);
        }
        let (bytes, ..) = self.encoding.encode(text);
        if self.has_mark { [b"\xEF\xBB\xBF", &*bytes].concat() } else { bytes.into_owned() }
    }
}

/// Where the characters of a text stand among the bytes that it was read from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct BytePlaces {
    /// Bytes before the first character.
    mark: usize,
    /// Offsets in the text, rising, and how many bytes fewer than in UTF-8 stand before each, or more where negative. A
    /// sound text in UTF-8 has none.
    fewer: Vec<(usize, isize)>,
}

impl BytePlaces {
    /// Of a text that can be had from its bytes again. O(n).
    pub fn of(encoding: PageEncoding, text: &str) -> Self {
        let mut places = Self { mark: encoding.mark(), fewer: Vec::new() };
        if encoding.encoding == UTF_8 {
            return places;
        }
        let (mut encoder, mut buffer, mut read) = (encoding.encoding.new_encoder(), [0; 16], 0);
        for (at, letter) in text.char_indices() {
            let end = at + letter.len_utf8();
            read += match encoding.is_wide() {
                true => 2 * letter.len_utf16(),
                false => encoder.encode_from_utf8_without_replacement(&text[at..end], &mut buffer, false).2,
            };
            places.note(end, read);
        }
        places
    }

    /// Of a text that cannot, since some of the bytes mean nothing in the encoding, or what others mean, too; `bytes` are
    /// all of its. In GB 18030 the character beside such bytes may be found a few bytes too late. O(n), byte by byte.
    pub fn of_torn(encoding: PageEncoding, bytes: &[u8]) -> Self {
        let mut places = Self { mark: encoding.mark(), fewer: Vec::new() };
        let bytes = bytes.get(places.mark..).unwrap_or_default();
        let mut decoder = encoding.encoding.new_decoder_without_bom_handling();
        let (mut buffer, mut read, mut length) = ([0; 16], 0, 0);
        loop {
            let next = (read + 1).min(bytes.len());
            let is_last = next == bytes.len();
            let (result, taken, written) =
                decoder.decode_to_utf8_without_replacement(&bytes[read..next], &mut buffer, is_last);
            read += taken;
            length += written;
            if written > 0 {
                places.note(length, read);
            }
            match result {
                DecoderResult::InputEmpty if is_last => return places,
                // Bytes that were read after those without sense come with the next text.
                DecoderResult::Malformed(_, after) => {
                    length += char::REPLACEMENT_CHARACTER.len_utf8();
                    places.note(length, read - usize::from(after));
                }
                DecoderResult::InputEmpty | DecoderResult::OutputFull => {}
            }
        }
    }

    /// That the character at an offset of the text begins at this byte beside the mark. They rise.
    fn note(&mut self, at: usize, byte: usize) {
        let fewer = at.cast_signed() - byte.cast_signed();
        if self.fewer.last().map_or(0, |(_, known)| *known) != fewer {
            self.fewer.push((at, fewer));
        }
    }

    /// The byte at which the character at an offset of the text begins. O(log n).
    pub fn byte(&self, at: usize) -> usize {
        let next = self.fewer.partition_point(|(offset, _)| *offset <= at);
        let fewer = next.checked_sub(1).map_or(0, |last| self.fewer[last].1);
        (self.mark + at).saturating_add_signed(-fewer)
    }
}

/// Reads bytes as text. `label` is the encoding that they came with, if anybody said. O(n).
pub fn decode(bytes: Vec<u8>, label: Option<&str>) -> Decoded {
    let encoding = PageEncoding::of(&bytes, label);
    if encoding.encoding == UTF_8 && !encoding.has_mark {
        return match String::from_utf8(bytes) {
            Ok(text) => Decoded { text, encoding, is_faithful: true },
            Err(error) => {
                let text = String::from_utf8_lossy(error.as_bytes()).into_owned();
                Decoded { text, encoding, is_faithful: false }
            }
        };
    }
    let (text, had_errors) = match encoding.has_mark {
        true => encoding.encoding.decode_with_bom_removal(&bytes),
        false => encoding.encoding.decode_without_bom_handling(&bytes),
    };
    let is_faithful = !had_errors && encoding.encode(&text) == bytes;
    Decoded { text: text.into_owned(), encoding, is_faithful }
}

/// What a page says of its encoding: `<meta charset>` or `<meta http-equiv=content-type>`.
fn said_by(bytes: &[u8]) -> Option<&'static Encoding> {
    // Names of encodings are ASCII, and all encodings that can be said so have ASCII in common.
    let start: String = bytes.iter().take(LOOKED_AT).map(|byte| char::from(*byte)).collect();
    let mut tokens = Tokenizer::new(&start);
    while let Some(token) = tokens.next() {
        let HtmlToken::StartTag(tag) = token else { continue };
        let name = start.get(tag.name.range()).unwrap_or_default();
        match Element::of(name) {
            Element::Meta => {}
            Element::Body => return None,
            _ => continue,
        }
        let value = |wanted: &str| {
            let found = tokens.attributes().iter().find(|attribute| {
                start.get(attribute.name.range()).is_some_and(|name| name.eq_ignore_ascii_case(wanted))
            });
            found.and_then(|attribute| start.get(attribute.value.range())).map(attribute_value)
        };
        let facts = TagFacts::of(&start, tokens.attributes());
        let is_type = facts.http_equiv.is_some_and(|kind| kind.eq_ignore_ascii_case("content-type"));
        let label = value("charset")
            .map(|label| label.into_owned())
            .or_else(|| facts.content.filter(|_| is_type).and_then(|content| label_in(content)).map(str::to_owned));
        if let Some(encoding) = label.and_then(|label| Encoding::for_label(label.trim().as_bytes())) {
            return Some(encoding);
        }
    }
    None
}

/// The encoding in a media type such as `text/html; charset=utf-8`.
pub fn label_in(media_type: &str) -> Option<&str> {
    let parameters = media_type.split(';').skip(1);
    let charset = parameters.filter_map(|parameter| parameter.split_once('='));
    let mut charset = charset.filter(|(name, _)| name.trim().eq_ignore_ascii_case("charset"));
    charset.next().map(|(_, label)| label.trim().trim_matches(['"', '\'']))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn of(bytes: &[u8], label: Option<&str>) -> &'static str {
        PageEncoding::of(bytes, label).name()
    }

    #[test]
    fn a_page_s_encoding_is_found_in_the_order_of_the_standard() {
        assert_eq!(of(b"\xEF\xBB\xBF<p>", Some("latin1")), "UTF-8");
        assert_eq!(of(b"<meta charset=utf-8>", Some("shift_jis")), "Shift_JIS");
        assert_eq!(of(b"<META CharSet = 'ISO-8859-2'><p>", None), "ISO-8859-2");
        assert_eq!(
            of(b"<!-- <meta charset=big5> --><meta http-equiv=Content-Type content='text/html; charset=euc-jp'>", None),
            "EUC-JP"
        );
        assert_eq!(of(b"<meta charset=utf-16>\xe9", None), "UTF-8");
        assert_eq!(of("é".as_bytes(), None), "UTF-8");
        assert_eq!(of(b"\xe9t\xe9", None), "windows-1252");
        assert_eq!(label_in("text/html; a=b; Charset=\"Big5\""), Some("Big5"));
    }

    #[test]
    fn every_encoding_gives_its_bytes_back_and_changes_only_what_was_changed() {
        let text = "<p>Ein Abend – für 50 €, ťuk</p>";
        for label in
            ["utf-8", "windows-1250", "windows-1252", "iso-8859-2", "shift_jis", "gb18030", "euc-kr", "iso-2022-jp"]
        {
            let encoding = PageEncoding { encoding: Encoding::for_label(label.as_bytes()).unwrap(), has_mark: false };
            let bytes = encoding.encode(text);
            let decoded = decode(bytes.clone(), Some(label));
            assert!(decoded.is_faithful, "{label}");
            let changed = decoded.text.replacen("Abend", "<a href=/x>Abend</a> ☾", 1);
            let after = decoded.encoding.encode(&changed);
            let at = bytes.windows(5).position(|window| window == b"Abend").unwrap();
            assert_eq!(after[..at], bytes[..at], "{label}");
            assert!(after.ends_with(&bytes[at + 5..]), "{label}");
            // What the encoding cannot say becomes a reference.
            assert!(decode(after, Some(label)).text.contains("</a> ☾") || label != "utf-8");
        }
        for (mark, to_bytes) in [(b"\xFF\xFE", u16::to_le_bytes as fn(u16) -> [u8; 2]), (b"\xFE\xFF", u16::to_be_bytes)]
        {
            let bytes: Vec<u8> = mark.iter().copied().chain(text.encode_utf16().flat_map(to_bytes)).collect();
            let decoded = decode(bytes.clone(), None);
            assert!(decoded.is_faithful && decoded.text == text);
            assert_eq!(decoded.encoding.encode(text), bytes);
        }
        assert!(!decode(b"caf\xe9 \xff".to_vec(), Some("utf-8")).is_faithful);
        assert!(!decode(b"\x81\xff".to_vec(), Some("shift_jis")).is_faithful);
    }

    #[test]
    fn places_in_a_text_are_found_among_its_bytes_in_every_encoding() {
        let text = "Été, ťuk – für 50 €; 日本語 と 한글 🪐 end";
        let labels = ["utf-8", "utf-16le", "windows-1252", "iso-8859-2", "shift_jis", "gb18030", "euc-kr"];
        for (label, has_mark) in labels.into_iter().flat_map(|label| [(label, false), (label, true)]) {
            let encoding = PageEncoding { encoding: Encoding::for_label(label.as_bytes()).unwrap(), has_mark };
            if has_mark && !label.starts_with("utf") {
                continue;
            }
            // What the encoding has.
            let known = |letter: &char| !encoding.encoding.encode(&letter.to_string()).2;
            let text: String = text.chars().filter(known).collect();
            let places = BytePlaces::of(encoding, &text);
            for (at, letter) in text.char_indices() {
                let before = encoding.encode(&text[..at]).len();
                assert_eq!(places.byte(at), before, "{letter} of {text} in {label}");
            }
            assert_eq!(places.byte(text.len()), encoding.encode(&text).len(), "{label}");
        }
    }

    proptest! {
        #[test]
        fn what_stands_between_senseless_bytes_is_found_among_them(
            bytes in prop::collection::vec(
                prop_oneof![
                    3 => prop::sample::select(b"abc <>&".to_vec()),
                    2 => any::<u8>(),
                    1 => prop::sample::select(vec![0xC3, 0xA9, 0xE2, 0x80, 0x93, 0xF0, 0x81, 0x40, 0xFF, 0x00]),
                ],
                0..60,
            ),
            label in prop::sample::select(vec!["utf-8", "windows-1252", "iso-8859-3", "shift_jis", "euc-jp", "euc-kr", "big5", "koi8-r"]),
            has_mark in any::<bool>(),
        ) {
            let marked = has_mark && label == "utf-8";
            let bytes = if marked { [b"\xEF\xBB\xBF", &*bytes].concat() } else { bytes };
            // A mark makes UTF-8 of what is called otherwise.
            prop_assume!(marked || Encoding::for_bom(&bytes).is_none());
            let Decoded { text, encoding, is_faithful } = decode(bytes.clone(), Some(label));
            let places = BytePlaces::of_torn(encoding, &bytes);
            if is_faithful {
                prop_assert_eq!(&places, &BytePlaces::of(encoding, &text));
            }
            prop_assert_eq!(places.byte(text.len()), bytes.len());
            let mut start = 0;
            for piece in text.split_inclusive(char::REPLACEMENT_CHARACTER) {
                let sound = piece.trim_end_matches(char::REPLACEMENT_CHARACTER);
                let of_piece = &bytes[places.byte(start)..places.byte(start + sound.len())];
                let (read, had_errors) = encoding.encoding.decode_without_bom_handling(of_piece);
                prop_assert!(!had_errors && read == sound, "{:?} at {} is {:?}", sound, start, of_piece);
                start += piece.len();
            }
        }
    }
}
