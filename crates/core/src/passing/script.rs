//! Where one is in a script, which hides its end tag in `<!-- <script> … </script> -->`: the states "script data", "escaped" and
//! "double escaped" of the HTML standard, section 13.2.5, byte by byte.

use memchr::{memchr, memchr2};

use super::plain_tag::ends_name;

/// The name of the element.
pub(super) const SCRIPT: &[u8] = b"script";

/// Where in a script the next byte stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Script {
    Within(Hidden),
    /// After `<`, `<!` and `<!-`.
    Open(Hidden),
    Bang,
    BangDash,
    /// After so many dashes.
    Dash(Hidden, usize),
    /// After so many letters of the name of a tag.
    Name {
        hidden: Hidden,
        is_end: bool,
        at: usize,
    },
}

/// How deep a script is hidden.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Hidden {
    Not,
    Once,
    Twice,
}

impl Default for Script {
    fn default() -> Self {
        Self::Within(Hidden::Not)
    }
}

impl Script {
    /// How far it is to the next byte that may change anything.
    pub fn skip(self, rest: &[u8]) -> Option<usize> {
        match self {
            Self::Within(Hidden::Not) => memchr(b'<', rest),
            Self::Within(_) => memchr2(b'<', b'-', rest),
            _ => Some(0),
        }
    }

    /// Takes a byte, or `false` when it is to be looked at once more in the state that it led to. `None` when it ends the name of
    /// the end tag of the script.
    pub fn step(self, byte: u8) -> Option<(Self, bool)> {
        Some(match self {
            Self::Within(hidden) => match byte {
                b'<' => (Self::Open(hidden), true),
                _ => (Self::Dash(hidden, 1), true),
            },
            Self::Open(hidden) => match byte {
                b'/' => (Self::Name { hidden, is_end: true, at: 0 }, true),
                b'!' if hidden == Hidden::Not => (Self::Bang, true),
                byte if hidden == Hidden::Once && byte.is_ascii_alphabetic() => {
                    (Self::Name { hidden, is_end: false, at: 0 }, false)
                }
                _ => (Self::Within(hidden), false),
            },
            Self::Bang => match byte {
                b'-' => (Self::BangDash, true),
                _ => (Self::default(), false),
            },
            Self::BangDash => match byte {
                b'-' => (Self::Dash(Hidden::Once, 2), true),
                _ => (Self::default(), false),
            },
            Self::Dash(hidden, dashes) => match byte {
                b'-' => (Self::Dash(hidden, dashes + 1), true),
                b'>' if dashes >= 2 => (Self::default(), true),
                _ => (Self::Within(hidden), false),
            },
            Self::Name { hidden, is_end, at } => match SCRIPT.get(at) {
                Some(letter) if byte.eq_ignore_ascii_case(letter) => (Self::Name { hidden, is_end, at: at + 1 }, true),
                None if ends_name(byte) => match (hidden, is_end) {
                    (Hidden::Twice, true) => (Self::Within(Hidden::Once), true),
                    (_, true) => return None,
                    (_, false) => (Self::Within(Hidden::Twice), true),
                },
                _ => (Self::Within(hidden), false),
            },
        })
    }
}
