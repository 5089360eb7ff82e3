//! A link as it stands in a page.

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};

use super::block::BlockId;
use super::region::Region;
use super::span::{SourceSpan, TextSpan};

/// What carries the link.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum LinkKind {
    Text,
    /// A picture alone: its alternative text is the anchor text.
    Picture,
    /// Words and a picture.
    Mixed,
    /// A part of a picture: an `area` of an image map, with an alternative text of its own.
    Area,
    /// Words that look and act as a button, by `role`.
    Button,
    /// Nothing that a reader could see.
    Empty,
}

/// What an `href` is for, by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Aim {
    /// A place on the same page.
    Place,
    /// A page or file, of this site or of another.
    Page,
    /// `mailto:`
    Mail,
    /// `tel:`
    Phone,
    /// `sms:`
    Message,
    /// `javascript:` and `data:`, which lead nowhere that could be looked at.
    Script,
    /// Another scheme.
    Other,
}

impl Aim {
    /// O(1): looks at the scheme alone.
    pub fn of(href: &str) -> Self {
        let href = href.trim();
        if href.starts_with('#') || href.is_empty() {
            return Self::Place;
        }
        let scheme_end =
            href.bytes().take(20).position(|byte| !(byte.is_ascii_alphanumeric() || b"+-.".contains(&byte)));
        let Some(scheme) = scheme_end.filter(|end| href.as_bytes()[*end] == b':').and_then(|end| href.get(..end))
        else {
            return Self::Page;
        };
        match scheme.to_ascii_lowercase().as_str() {
            "http" | "https" => Self::Page,
            "mailto" => Self::Mail,
            "tel" => Self::Phone,
            "sms" => Self::Message,
            "javascript" | "data" => Self::Script,
            _ => Self::Other,
        }
    }
}

/// What has to be encoded in a `mailto:` after RFC 6068: all but letters, digits and the marks that mean nothing in one.
const IN_MAIL: &AsciiSet =
    &NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_').remove(b'~').remove(b'@').remove(b'!').remove(b'$');

/// The parts of a `mailto:` address after RFC 6068, percent-decoded.
#[derive(Debug, Clone, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Mail {
    pub to: Vec<String>,
    /// Such as `subject`, `cc`, `body`: lower-case names with their values, in order.
    pub fields: Vec<(String, String)>,
}

impl Mail {
    /// `None` when `href` is not a `mailto:`. O(n).
    pub fn of(href: &str) -> Option<Self> {
        let rest = href.trim();
        let rest = rest.get(..7).filter(|scheme| scheme.eq_ignore_ascii_case("mailto:")).and(rest.get(7..))?;
        let (to, query) = rest.split_once('?').unwrap_or((rest, ""));
        let decode = |text: &str| percent_encoding::percent_decode_str(text).decode_utf8_lossy().into_owned();
        let fields = query.split('&').filter(|field| !field.is_empty()).map(|field| {
            let (name, value) = field.split_once('=').unwrap_or((field, ""));
            (decode(name).to_ascii_lowercase(), decode(value))
        });
        Some(Self {
            to: to.split(',').map(|to| decode(to).trim().to_owned()).filter(|to| !to.is_empty()).collect(),
            fields: fields.collect(),
        })
    }

    /// As a link writes it. The reverse of [`Mail::of`]. O(n).
    pub fn href(&self) -> String {
        let encode = |text: &str| utf8_percent_encode(text, IN_MAIL).to_string();
        let to = self.to.iter().map(|to| encode(to)).collect::<Vec<_>>().join(",");
        let fields = self.fields.iter().map(|(name, value)| format!("{}={}", encode(name), encode(value)));
        let fields = fields.collect::<Vec<_>>().join("&");
        format!("mailto:{to}{}{fields}", if fields.is_empty() { "" } else { "?" })
    }
}

/// A link of a page: where it stands, where it leads, and what it says.
#[derive(Debug, Clone)]
pub struct Link {
    /// From the `<` of the start tag to the end of the end tag (or to where the element was closed for it).
    pub source: SourceSpan,
    /// The start tag alone.
    pub start_tag: SourceSpan,
    /// The end tag alone; `None` when the link was closed without one.
    pub end_tag: Option<SourceSpan>,
    /// The value of `href`, character references resolved, white space at the ends removed.
    pub href: String,
    /// The words that carry the link; empty for a picture.
    pub text: TextSpan,
    pub kind: LinkKind,
    /// Alternative text of the first picture inside, or of the area.
    pub alt: Option<String>,
    /// Lower-case tokens of `rel`.
    pub rel: Vec<String>,
    /// What Markdown writes beside its address; of an element it is an attribute.
    pub(crate) title: Option<Box<str>>,
    pub region: Region,
    /// The block in which the link starts; `None` when it starts outside of any text.
    pub block: Option<BlockId>,
    /// Its attributes among those of the document; none in Markdown.
    pub(crate) attributes: AttributeRange,
    /// How Markdown writes it.
    pub(crate) manner: Manner,
    /// Whether a browser mends the markup in which it stands.
    pub(crate) mended: bool,
}

impl Link {
    /// What its `href` aims at: an address, a place on the page, mail, phone, or nothing that can be followed.
    pub fn aim(&self) -> Aim {
        Aim::of(&self.href)
    }

    /// Whether `rel` holds a token, in any case.
    pub fn has_rel(&self, token: &str) -> bool {
        self.rel.iter().any(|rel| rel == token)
    }
}

/// A stretch of the attributes of a document.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct AttributeRange {
    pub start: u32,
    pub end: u32,
}

/// How a link is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) enum Manner {
    /// An HTML element, in Markdown too.
    #[default]
    Element,
    /// `[words](target)`
    Inline,
    /// `[words][name]`, `[name][]` or `[name]`, with the target elsewhere in the document.
    Reference,
    /// `<https://…>`
    Autolink,
}
