//! Where in the markup of a page one is, after any bytes of it: the tokenizer of the HTML standard, section 13.2.5, byte by byte,
//! as far as it is needed to tell running text from all else. Nothing of what went by is kept but the name of a tag.

use memchr::memchr;

use super::plain_tag::{PlainTag, ends_name, is_space};
use super::script::{SCRIPT, Script};

/// Names of tags that matter are no longer.
const LONGEST_NAME: usize = 12;

/// Where in the markup the next byte stands.
#[derive(Debug, Clone)]
pub struct Whereabouts {
    state: State,
    tag: Tag,
    /// The element whose end tag ends raw text.
    until: &'static [u8],
    /// Within so many elements of SVG and MathML, and of such as carry no links.
    foreign: usize,
    closed: usize,
    is_in_link: bool,
}

#[derive(Debug, Clone, Copy, Default)]
struct Tag {
    name: [u8; LONGEST_NAME],
    length: usize,
    is_end: bool,
    closes_itself: bool,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum State {
    Text,
    Open,
    EndOpen,
    Name,
    BeforeAttribute,
    AttributeName,
    AfterAttributeName,
    BeforeValue,
    Quoted(u8),
    Unquoted,
    AfterQuoted,
    Declaration,
    DeclarationDash,
    CommentStart,
    CommentStartDash,
    Comment,
    CommentDash,
    CommentEnd,
    CommentEndBang,
    Bogus,
    /// So many letters of `[CDATA[`.
    CdataOpen(usize),
    Cdata,
    /// So many `]`.
    CdataEnd(usize),
    /// Text without markup, up to an end tag; and so many letters of that.
    Raw,
    RawOpen,
    RawName(usize),
    Plain,
    Script(Script),
}

const CDATA: &[u8] = b"[CDATA[";

impl Default for Whereabouts {
    fn default() -> Self {
        Self { state: State::Text, tag: Tag::default(), until: b"", foreign: 0, closed: 0, is_in_link: false }
    }
}

impl Whereabouts {
    /// Whether a link may begin here: in text that is read, not in a link already, nor in what carries none.
    pub fn may_begin_link(&self) -> bool {
        self.is_text() && self.foreign == 0 && self.closed == 0 && !self.is_in_link
    }

    /// Whether the next byte is text, or begins a tag.
    pub fn is_text(&self) -> bool {
        self.state == State::Text
    }

    /// Goes on over bytes of the page. O(n); text, comments, scripts and values of attributes are passed over by the letter that
    /// may end them.
    pub fn pass(&mut self, bytes: &[u8]) {
        let mut at = 0;
        while let Some(rest) = bytes.get(at..).filter(|rest| !rest.is_empty()) {
            let skipped = self.skip(rest);
            at += skipped;
            let Some(rest) = rest.get(skipped..).filter(|rest| !rest.is_empty()) else { return };
            // Most tags are written so that their ends are found at once.
            at += match self.plain_tag(rest) {
                Some(length) => length,
                None => usize::from(self.step(rest[0])),
            };
        }
    }

    /// The length of a tag that begins here, if it is a plain one.
    fn plain_tag(&mut self, rest: &[u8]) -> Option<usize> {
        let tag = PlainTag::at(rest).filter(|_| self.state == State::Text)?;
        self.tag = Tag { is_end: tag.is_end, closes_itself: tag.closes_itself, ..Tag::default() };
        tag.name.iter().take(LONGEST_NAME + 1).for_each(|letter| self.tag.push(*letter));
        self.state = self.end_of_tag();
        Some(tag.length)
    }

    /// How many bytes change nothing.
    fn skip(&self, rest: &[u8]) -> usize {
        let found = match self.state {
            State::Text | State::Raw => memchr(b'<', rest),
            State::Script(script) => script.skip(rest),
            State::Comment => memchr(b'-', rest),
            State::Bogus => memchr(b'>', rest),
            State::Quoted(quote) => memchr(quote, rest),
            State::Cdata => memchr(b']', rest),
            State::Plain => None,
            _ => Some(0),
        };
        found.unwrap_or(rest.len())
    }

    /// Takes a byte, or `false` when it is to be looked at once more in the state that it led to.
    fn step(&mut self, byte: u8) -> bool {
        let (state, taken) = match self.state {
            State::Text => (State::Open, true),
            State::Open => self.open(byte),
            State::EndOpen => match byte {
                b'>' => (State::Text, true),
                byte if byte.is_ascii_alphabetic() => self.name(true),
                _ => (State::Bogus, false),
            },
            State::Name => match byte {
                b'>' => (self.end_of_tag(), true),
                b'/' => (self.slash(), true),
                byte if is_space(byte) => (State::BeforeAttribute, true),
                byte => {
                    self.tag.push(byte);
                    (State::Name, true)
                }
            },
            State::BeforeAttribute => match byte {
                b'>' => (self.end_of_tag(), true),
                b'/' => (self.slash(), true),
                byte if is_space(byte) => (State::BeforeAttribute, true),
                _ => {
                    self.tag.closes_itself = false;
                    (State::AttributeName, true)
                }
            },
            State::AttributeName => match byte {
                b'=' => (State::BeforeValue, true),
                b'>' | b'/' => (State::BeforeAttribute, false),
                byte if is_space(byte) => (State::AfterAttributeName, true),
                _ => (State::AttributeName, true),
            },
            State::AfterAttributeName => match byte {
                b'=' => (State::BeforeValue, true),
                byte if is_space(byte) => (State::AfterAttributeName, true),
                _ => (State::BeforeAttribute, false),
            },
            State::BeforeValue => match byte {
                b'"' | b'\'' => (State::Quoted(byte), true),
                b'>' => (self.end_of_tag(), true),
                byte if is_space(byte) => (State::BeforeValue, true),
                _ => (State::Unquoted, true),
            },
            State::Quoted(_) => (State::AfterQuoted, true),
            State::Unquoted => match byte {
                b'>' => (self.end_of_tag(), true),
                byte if is_space(byte) => (State::BeforeAttribute, true),
                _ => (State::Unquoted, true),
            },
            State::AfterQuoted => (State::BeforeAttribute, false),
            State::Declaration => match byte {
                b'-' => (State::DeclarationDash, true),
                b'[' if self.foreign > 0 => (State::CdataOpen(1), true),
                _ => (State::Bogus, false),
            },
            State::DeclarationDash => match byte {
                b'-' => (State::CommentStart, true),
                _ => (State::Bogus, false),
            },
            State::CommentStart => match byte {
                b'-' => (State::CommentStartDash, true),
                b'>' => (State::Text, true),
                _ => (State::Comment, false),
            },
            State::CommentStartDash => match byte {
                b'-' => (State::CommentEnd, true),
                b'>' => (State::Text, true),
                _ => (State::Comment, false),
            },
            State::Comment => (State::CommentDash, true),
            State::CommentDash => match byte {
                b'-' => (State::CommentEnd, true),
                _ => (State::Comment, false),
            },
            State::CommentEnd => match byte {
                b'>' => (State::Text, true),
                b'!' => (State::CommentEndBang, true),
                b'-' => (State::CommentEnd, true),
                _ => (State::Comment, false),
            },
            State::CommentEndBang => match byte {
                b'>' => (State::Text, true),
                _ => (State::Comment, false),
            },
            State::Bogus => (State::Text, true),
            State::CdataOpen(at) => match CDATA.get(at) {
                Some(letter) if *letter == byte && at + 1 == CDATA.len() => (State::Cdata, true),
                Some(letter) if *letter == byte => (State::CdataOpen(at + 1), true),
                _ => (State::Bogus, false),
            },
            State::Cdata => (State::CdataEnd(1), true),
            State::CdataEnd(closed) => match byte {
                b']' => (State::CdataEnd(closed + 1), true),
                b'>' if closed >= 2 => (State::Text, true),
                _ => (State::Cdata, false),
            },
            State::Raw => (State::RawOpen, true),
            State::RawOpen => match byte {
                b'/' => (State::RawName(0), true),
                _ => (State::Raw, false),
            },
            State::RawName(at) => self.raw_name(at, byte),
            State::Plain => (State::Plain, true),
            State::Script(script) => match script.step(byte) {
                Some((script, taken)) => (State::Script(script), taken),
                None => (self.end_of_raw(), false),
            },
        };
        self.state = state;
        taken
    }

    fn open(&mut self, byte: u8) -> (State, bool) {
        match byte {
            b'!' => (State::Declaration, true),
            b'/' => (State::EndOpen, true),
            b'?' => (State::Bogus, true),
            byte if byte.is_ascii_alphabetic() => self.name(false),
            _ => (State::Text, false),
        }
    }

    fn name(&mut self, is_end: bool) -> (State, bool) {
        self.tag = Tag { is_end, ..Tag::default() };
        (State::Name, false)
    }

    fn slash(&mut self) -> State {
        self.tag.closes_itself = true;
        State::BeforeAttribute
    }

    fn raw_name(&mut self, at: usize, byte: u8) -> (State, bool) {
        match self.until.get(at) {
            Some(letter) if byte.eq_ignore_ascii_case(letter) => (State::RawName(at + 1), true),
            None if ends_name(byte) => (self.end_of_raw(), false),
            _ => (State::Raw, false),
        }
    }

    /// The end tag of raw text begins, and its name is over.
    fn end_of_raw(&mut self) -> State {
        self.tag = Tag { is_end: true, ..Tag::default() };
        self.until.iter().for_each(|letter| self.tag.push(*letter));
        State::Name
    }

    /// What follows a tag.
    fn end_of_tag(&mut self) -> State {
        let tag = self.tag;
        let name = tag.name();
        match name {
            b"a" => self.is_in_link = !tag.is_end,
            b"svg" | b"math" => count(&mut self.foreign, tag),
            b"button" | b"select" | b"template" if self.foreign == 0 => count(&mut self.closed, tag),
            _ => {}
        }
        if tag.is_end || self.foreign > 0 {
            return State::Text;
        }
        let raw = [b"style".as_slice(), b"xmp", b"iframe", b"noembed", b"noframes", b"noscript", b"title", b"textarea"];
        if name == b"plaintext" {
            return State::Plain;
        }
        if name == SCRIPT {
            self.until = SCRIPT;
            return State::Script(Script::default());
        }
        match raw.into_iter().find(|raw| *raw == name) {
            Some(until) => {
                self.until = until;
                State::Raw
            }
            None => State::Text,
        }
    }
}

fn count(open: &mut usize, tag: Tag) {
    if tag.is_end {
        *open = open.saturating_sub(1);
    } else if !tag.closes_itself {
        *open += 1;
    }
}

impl Tag {
    fn push(&mut self, letter: u8) {
        // A name that is too long is none that matters.
        if let Some(place) = self.name.get_mut(self.length) {
            *place = letter.to_ascii_lowercase();
        }
        self.length = self.length.saturating_add(1);
    }

    fn name(&self) -> &[u8] {
        self.name.get(..self.length).unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::document::html_texts;

    fn pieces() -> impl Strategy<Value = Vec<String>> {
        let pieces = vec![
            "<",
            ">",
            "</",
            "<p>",
            "</p>",
            "<p class=\"a>b\">",
            "<p a='<b>' b=c/d e>",
            "<script>",
            "</script>",
            "<script",
            "</script",
            "<!--",
            "-->",
            "--!>",
            "->",
            "--",
            "-",
            "<!",
            "<!doctype html>",
            "<?x?>",
            "<style>",
            "</style >",
            "<title>",
            "</title/>",
            "<textarea>",
            "</TEXTAREA>",
            "</titles>",
            " ",
            "/",
            "=",
            "\"",
            "'",
            "moon",
            "a < b",
            "<b/>",
            "<button a=b/>",
            "<select />",
            "</select>",
            "<button a = 'b>'>",
            "</button>",
            "<a",
            " a=",
            "='",
            "a=\"",
            "<iframe>",
            "</iframe>",
            "&amp;",
            "\u{e9}",
        ];
        prop::collection::vec(prop::sample::select(pieces).prop_map(str::to_owned), 0..24)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]

        #[test]
        fn text_is_where_the_tokenizer_sees_it_in_whatever_pieces_the_page_comes(pieces in pieces()) {
            let source = pieces.concat();
            let texts = html_texts(&source);
            let mut by_pieces = Whereabouts::default();
            let mut at = 0;
            for piece in &pieces {
                let mut by_bytes = by_pieces.clone();
                for byte in piece.as_bytes() {
                    // What may still become markup, and is text if it does not, is not asked for.
                    if let Some(is_text) = texts.get(at) {
                        let seen = by_bytes.is_text() || is_pending(&by_bytes);
                        prop_assert!(!*is_text || seen, "{} at {}: {:?}", source, at, by_bytes.state);
                        prop_assert!(*is_text || !by_bytes.is_text() || *byte == b'<', "{} at {}: {:?}", source, at, by_bytes.state);
                    }
                    by_bytes.pass(&[*byte]);
                    at += 1;
                }
                by_pieces.pass(piece.as_bytes());
                prop_assert_eq!(by_pieces.state, by_bytes.state);
            }
            let mut at_once = Whereabouts::default();
            at_once.pass(source.as_bytes());
            prop_assert_eq!(said(&at_once), said(&by_pieces), "{}", source);
        }
    }

    fn said(whereabouts: &Whereabouts) -> (State, usize, usize, bool) {
        (whereabouts.state, whereabouts.foreign, whereabouts.closed, whereabouts.is_in_link)
    }

    fn is_pending(whereabouts: &Whereabouts) -> bool {
        matches!(whereabouts.state, State::Open | State::EndOpen)
    }

    #[test]
    fn links_begin_in_running_text_alone() {
        let after = |source: &str| {
            let mut whereabouts = Whereabouts::default();
            whereabouts.pass(source.as_bytes());
            whereabouts.may_begin_link()
        };
        assert!(after("<p>The "));
        assert!(after("<a href='/'>home</a> "));
        assert!(after("<svg><path d='m'/></svg>"));
        assert!(after("<svg/>"));
        assert!(after("<script><!--<script></script>--></script>"));
        for not in [
            "<p",
            "<a href=x>",
            "<svg><text>",
            "<button>",
            "<script>",
            "<script><!--<script></script>",
            "<!-- ",
            "<title>",
        ] {
            assert!(!after(not), "{not}");
        }
    }
}
