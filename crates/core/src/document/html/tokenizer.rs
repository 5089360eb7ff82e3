//! Tokens of HTML after the HTML standard's section 13.2.5, each with its bytes. Nothing is decoded and nothing copied:
//! a token is a set of places in the source. What a browser's tree builder would tell its tokenizer (raw text, foreign
//! content) the reader tells this one.

use memchr::{memchr, memchr2, memmem};

use crate::document::span::SourceSpan;

/// How the bytes of a text become characters.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TextMode {
    /// Character references count; NUL is dropped.
    Data,
    /// Character references count; NUL is replaced.
    Escapable,
    /// Bytes are characters, but for line ends and NUL, which is replaced.
    Raw,
    /// Between `<![CDATA[` and `]]>`: bytes are characters, but for line ends.
    Verbatim,
}

/// The start or the end of an element: places in the source.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct TagToken {
    /// From `<` to after `>`.
    pub source: SourceSpan,
    pub name: SourceSpan,
    pub self_closing: bool,
}

/// A piece of HTML source; together the tokens cover all of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HtmlToken {
    Text(SourceSpan, TextMode),
    StartTag(TagToken),
    EndTag(TagToken),
    /// The whole comment, and what it holds.
    Comment(SourceSpan, SourceSpan),
    Doctype(SourceSpan),
    /// Bytes that a browser passes over, such as a tag that the end of the page cuts off.
    Nothing(SourceSpan),
}

/// How the value of an attribute is quoted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AttributeQuote {
    /// There is a name and no `=`.
    NoValue,
    Unquoted,
    Single,
    Double,
}

/// An attribute of a tag: places in the source.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RawAttribute {
    /// From the name to after the value and its quote.
    pub source: SourceSpan,
    pub name: SourceSpan,
    /// Without quotes; empty just after the name when there is none.
    pub value: SourceSpan,
    pub quote: AttributeQuote,
}

/// What kind of text follows until an end tag.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Content {
    Markup,
    Escapable,
    Raw,
    Script,
    /// To the end of the page.
    Plain,
}

/// O(n) over all tokens: each byte is looked at a bounded number of times.
pub struct Tokenizer<'s> {
    source: &'s str,
    at: usize,
    content: Content,
    /// The element whose end tag ends raw content.
    until: &'s str,
    /// Whether `<![CDATA[` begins text here: in SVG and MathML.
    pub foreign: bool,
    attributes: Vec<RawAttribute>,
}

const fn is_space(byte: u8) -> bool {
    matches!(byte, b'\t' | b'\n' | b'\x0c' | b'\r' | b' ')
}

const fn ends_name(byte: u8) -> bool {
    is_space(byte) || matches!(byte, b'/' | b'>')
}

impl<'s> Tokenizer<'s> {
    /// A tokenizer at the begin of a source. Nothing is copied.
    pub fn new(source: &'s str) -> Self {
        Self { source, at: 0, content: Content::Markup, until: "", foreign: false, attributes: Vec::new() }
    }

    /// Says what follows, up to the end tag of the element `until`.
    pub fn expect(&mut self, content: Content, until: &'s str) {
        (self.content, self.until) = (content, until);
    }

    /// The attributes of the tag that came last, in source order; of two with the same name the first counts.
    pub fn attributes(&self) -> &[RawAttribute] {
        &self.attributes
    }

    fn byte(&self, at: usize) -> Option<u8> {
        self.source.as_bytes().get(at).copied()
    }

    fn rest(&self, at: usize) -> &'s [u8] {
        self.source.as_bytes().get(at..).unwrap_or_default()
    }

    /// The next token; `None` at the end of the source.
    pub fn next(&mut self) -> Option<HtmlToken> {
        if self.at >= self.source.len() {
            return None;
        }
        let start = self.at;
        if self.content != Content::Markup {
            return Some(self.raw(start));
        }
        let text_end = self.text_end(start);
        if text_end > start {
            self.at = text_end;
            return Some(HtmlToken::Text(SourceSpan::new(start, text_end), TextMode::Data));
        }
        Some(match self.byte(start + 1) {
            Some(b'!') => self.declaration(start),
            Some(b'?') => self.bogus_comment(start, start + 1),
            Some(b'/') => match self.byte(start + 2) {
                Some(b'>') => self.nothing(start, start + 3),
                Some(byte) if byte.is_ascii_alphabetic() => self.tag(start, start + 2, true),
                _ => self.bogus_comment(start, start + 2),
            },
            _ => self.tag(start, start + 1, false),
        })
    }

    /// Where text ends: at a `<` that begins markup.
    fn text_end(&self, start: usize) -> usize {
        let mut at = start;
        while let Some(found) = memchr(b'<', self.rest(at)) {
            let open = at + found;
            match self.byte(open + 1) {
                Some(b'!' | b'?') => return open,
                Some(b'/') if self.byte(open + 2).is_some() => return open,
                Some(byte) if byte.is_ascii_alphabetic() => return open,
                _ => at = open + 1,
            }
        }
        self.source.len()
    }

    fn nothing(&mut self, start: usize, end: usize) -> HtmlToken {
        self.at = end;
        HtmlToken::Nothing(SourceSpan::new(start, end))
    }

    fn raw(&mut self, start: usize) -> HtmlToken {
        let end = match self.content {
            Content::Plain => None,
            Content::Script => self.script_end(start),
            _ => self.raw_end(start),
        };
        let mode = if self.content == Content::Escapable { TextMode::Escapable } else { TextMode::Raw };
        match end {
            Some(end) if end == start => {
                self.content = Content::Markup;
                self.tag(start, start + 2, true)
            }
            end => {
                self.at = end.unwrap_or(self.source.len());
                HtmlToken::Text(SourceSpan::new(start, self.at), mode)
            }
        }
    }

    /// Whether `name` stands at `at`, in any case, and ends there.
    fn is_name(&self, at: usize, name: &str) -> bool {
        let end = at + name.len();
        self.rest(at).get(..name.len()).is_some_and(|bytes| bytes.eq_ignore_ascii_case(name.as_bytes()))
            && self.byte(end).is_some_and(ends_name)
    }

    fn raw_end(&self, start: usize) -> Option<usize> {
        let mut at = start;
        loop {
            let open = at + memmem::find(self.rest(at), b"</")?;
            if self.is_name(open + 2, self.until) {
                return Some(open);
            }
            at = open + 2;
        }
    }

    /// Scripts hide their end tag in `<!-- <script> … </script> -->`: the states "script data escaped" and "double
    /// escaped" of the standard.
    fn script_end(&self, start: usize) -> Option<usize> {
        let mut at = start;
        loop {
            let open = at + memchr(b'<', self.rest(at))?;
            if self.byte(open + 1) == Some(b'/') && self.is_name(open + 2, self.until) {
                return Some(open);
            }
            at = open + 1;
            if !self.rest(open).starts_with(b"<!--") {
                continue;
            }
            let (mut double, mut dashes) = (false, 2);
            at = open + 4;
            loop {
                let byte = self.byte(at)?;
                match byte {
                    b'-' => dashes += 1,
                    b'>' if dashes >= 2 => break,
                    b'<' if self.byte(at + 1) == Some(b'/') => {
                        dashes = 0;
                        if self.is_name(at + 2, self.until) {
                            if !double {
                                return Some(at);
                            }
                            double = false;
                        }
                    }
                    b'<' => {
                        dashes = 0;
                        double |= self.is_name(at + 1, "script");
                    }
                    _ => dashes = 0,
                }
                at += 1;
            }
        }
    }

    fn declaration(&mut self, start: usize) -> HtmlToken {
        let rest = self.rest(start + 2);
        if rest.starts_with(b"--") {
            return self.comment(start);
        }
        if rest.get(..7).is_some_and(|word| word.eq_ignore_ascii_case(b"doctype")) {
            let end = memchr(b'>', rest).map_or(self.source.len(), |found| start + 2 + found + 1);
            self.at = end;
            return HtmlToken::Doctype(SourceSpan::new(start, end));
        }
        if self.foreign && rest.starts_with(b"[CDATA[") {
            return self.verbatim(start);
        }
        self.bogus_comment(start, start + 2)
    }

    fn verbatim(&mut self, start: usize) -> HtmlToken {
        let inner = start + "<![CDATA[".len();
        let found = memmem::find(self.rest(inner), b"]]>");
        let end = found.map_or(self.source.len(), |found| inner + found);
        self.at = (end + 3).min(self.source.len());
        if end == inner { HtmlToken::Nothing(SourceSpan::new(start, self.at)) } else { self.verbatim_text(inner, end) }
    }

    fn verbatim_text(&self, start: usize, end: usize) -> HtmlToken {
        HtmlToken::Text(SourceSpan::new(start, end), TextMode::Verbatim)
    }

    /// A comment ends at the first `>`.
    fn bogus_comment(&mut self, start: usize, inner: usize) -> HtmlToken {
        let end = memchr(b'>', self.rest(inner)).map_or(self.source.len(), |found| inner + found);
        self.at = (end + 1).min(self.source.len());
        HtmlToken::Comment(SourceSpan::new(start, self.at), SourceSpan::new(inner, end))
    }

    fn comment(&mut self, start: usize) -> HtmlToken {
        let inner = start + 4;
        let whole = |end: usize, inner_end: usize| {
            HtmlToken::Comment(SourceSpan::new(start, end), SourceSpan::new(inner, inner_end.max(inner)))
        };
        for abrupt in [b">".as_slice(), b"->"] {
            if self.rest(inner).starts_with(abrupt) {
                self.at = inner + abrupt.len();
                return whole(self.at, inner);
            }
        }
        let mut at = inner;
        while let Some(found) = memmem::find(self.rest(at), b"--") {
            let dashes = at + found;
            let run = self.rest(dashes).iter().take_while(|byte| **byte == b'-').count();
            let after = dashes + run;
            match (self.byte(after), self.byte(after + 1)) {
                (Some(b'>'), _) => {
                    self.at = after + 1;
                    return whole(self.at, after - 2);
                }
                (Some(b'!'), Some(b'>')) => {
                    self.at = after + 2;
                    return whole(self.at, after - 2);
                }
                (Some(b'!'), None) | (None, _) => {
                    // The end of the page ends it; the dashes that would have begun the end are left out.
                    self.at = self.source.len();
                    return whole(self.at, after - 2);
                }
                _ => at = after,
            }
        }
        self.at = self.source.len();
        let hanging = usize::from(self.source.ends_with('-') && self.at > inner);
        whole(self.at, self.at - hanging)
    }

    fn tag(&mut self, start: usize, name_start: usize, is_end: bool) -> HtmlToken {
        self.attributes.clear();
        let length = self.rest(name_start).iter().position(|byte| ends_name(*byte));
        let Some(length) = length else { return self.nothing(start, self.source.len()) };
        let name = SourceSpan::new(name_start, name_start + length);
        let mut at = name.end;
        loop {
            while self.byte(at).is_some_and(is_space) {
                at += 1;
            }
            match self.byte(at) {
                None => return self.nothing(start, self.source.len()),
                Some(b'>') => return self.end_of_tag(start, name, at + 1, false, is_end),
                Some(b'/') if self.byte(at + 1) == Some(b'>') => {
                    return self.end_of_tag(start, name, at + 2, true, is_end);
                }
                Some(b'/') => at += 1,
                Some(_) => match self.attribute(at) {
                    Some(attribute) => {
                        self.attributes.push(attribute);
                        at = attribute.source.end;
                    }
                    None => return self.nothing(start, self.source.len()),
                },
            }
        }
    }

    fn end_of_tag(
        &mut self,
        start: usize,
        name: SourceSpan,
        end: usize,
        self_closing: bool,
        is_end: bool,
    ) -> HtmlToken {
        self.at = end;
        let tag = TagToken { source: SourceSpan::new(start, end), name, self_closing };
        if is_end { HtmlToken::EndTag(tag) } else { HtmlToken::StartTag(tag) }
    }

    /// The attribute at `start`; `None` when the page ends within.
    fn attribute(&self, start: usize) -> Option<RawAttribute> {
        // An `=` at the beginning belongs to the name.
        let after_first = start + 1;
        let length = self.rest(after_first).iter().position(|byte| ends_name(*byte) || *byte == b'=')?;
        let name = SourceSpan::new(start, after_first + length);
        let mut at = name.end;
        while is_space(self.byte(at)?) {
            at += 1;
        }
        if self.byte(at)? != b'=' {
            let value = SourceSpan::new(name.end, name.end);
            return Some(RawAttribute { source: name, name, value, quote: AttributeQuote::NoValue });
        }
        at += 1;
        while is_space(self.byte(at)?) {
            at += 1;
        }
        let (value, end, quote) = match self.byte(at)? {
            b'>' => (SourceSpan::new(at, at), at, AttributeQuote::Unquoted),
            mark @ (b'"' | b'\'') => {
                let end = at + 1 + memchr(mark, self.rest(at + 1))?;
                let quote = if mark == b'"' { AttributeQuote::Double } else { AttributeQuote::Single };
                (SourceSpan::new(at + 1, end), end + 1, quote)
            }
            _ => {
                let end = at + self.rest(at).iter().position(|byte| is_space(*byte) || *byte == b'>')?;
                (SourceSpan::new(at, end), end, AttributeQuote::Unquoted)
            }
        };
        Some(RawAttribute { source: SourceSpan::new(start, end), name, value, quote })
    }
}

/// Whether a text holds anything that is not its own bytes. O(n).
pub fn is_plain(text: &str, mode: TextMode) -> bool {
    let bytes = text.as_bytes();
    memchr2(b'\r', 0, bytes).is_none()
        && (matches!(mode, TextMode::Raw | TextMode::Verbatim) || memchr(b'&', bytes).is_none())
}
