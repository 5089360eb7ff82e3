//! What the HTML standard says about elements, as far as reading text needs it.

use super::html::tokenizer::Content;

/// Has no content and no end tag.
const VOID: u16 = 1;
/// Begins and ends a block of text.
const BLOCK: u16 = 1 << 1;
/// A reader does not see its text on the page.
const HIDDEN: u16 = 1 << 2;
/// Its text never takes a link of ours.
const REFUSES_LINKS: u16 = 1 << 3;
/// Its start closes an open `p`.
const CLOSES_P: u16 = 1 << 4;
/// "Has a particular element in scope" ends here.
pub(super) const SCOPE: u16 = 1 << 5;
/// The category "special".
const SPECIAL: u16 = 1 << 6;
/// The category "formatting": a browser opens it again after markup that closed it out of turn.
const FORMATTING: u16 = 1 << 7;
/// May stand in the `head`.
const IN_HEAD: u16 = 1 << 8;
/// Text directly in it is moved before the table.
const TABLE_PART: u16 = 1 << 9;

macro_rules! elements {
    ($($name:literal => $id:ident: $flags:expr;)*) => {
        /// An element by its name. Those without a meaning of their own for reading are all [`Element::Other`].
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
        #[repr(u8)]
        pub enum Element { Other, $($id),* }

        const FLAGS: &[u16] = &[0, $($flags),*];

        impl Element {
            fn of_lower_case(name: &[u8]) -> Self {
                match name {
                    $($name => Self::$id,)*
                    _ => Self::Other,
                }
            }
        }
    };
}

elements! {
    b"a" => A: FORMATTING;
    b"abbr" => Abbr: 0;
    b"address" => Address: BLOCK | CLOSES_P | SPECIAL;
    b"applet" => Applet: SCOPE | SPECIAL;
    b"area" => Area: VOID | SPECIAL;
    b"article" => Article: BLOCK | CLOSES_P | SPECIAL;
    b"aside" => Aside: BLOCK | CLOSES_P | SPECIAL;
    b"audio" => Audio: HIDDEN;
    b"b" => B: FORMATTING;
    b"base" => Base: VOID | SPECIAL | IN_HEAD;
    b"basefont" => Basefont: SPECIAL | IN_HEAD;
    b"bdi" => Bdi: 0;
    b"bdo" => Bdo: 0;
    b"bgsound" => Bgsound: SPECIAL | IN_HEAD;
    b"big" => Big: FORMATTING;
    b"blockquote" => Blockquote: BLOCK | CLOSES_P | SPECIAL;
    b"body" => Body: BLOCK | SPECIAL;
    b"br" => Br: VOID | SPECIAL;
    b"button" => Button: REFUSES_LINKS | SPECIAL;
    b"canvas" => Canvas: HIDDEN;
    b"caption" => Caption: BLOCK | SCOPE | SPECIAL;
    b"center" => Center: BLOCK | CLOSES_P | SPECIAL;
    b"cite" => Cite: 0;
    b"code" => Code: REFUSES_LINKS | FORMATTING;
    b"col" => Col: VOID | SPECIAL;
    b"colgroup" => Colgroup: SPECIAL | TABLE_PART;
    b"data" => Data: 0;
    b"datalist" => Datalist: HIDDEN;
    b"dd" => Dd: BLOCK | CLOSES_P | SPECIAL;
    b"del" => Del: 0;
    b"details" => Details: BLOCK | CLOSES_P | SPECIAL;
    b"dfn" => Dfn: 0;
    b"dialog" => Dialog: BLOCK | CLOSES_P;
    b"dir" => Dir: BLOCK | CLOSES_P | SPECIAL;
    b"div" => Div: BLOCK | CLOSES_P | SPECIAL;
    b"dl" => Dl: BLOCK | CLOSES_P | SPECIAL;
    b"dt" => Dt: BLOCK | CLOSES_P | SPECIAL;
    b"em" => Em: FORMATTING;
    b"embed" => Embed: VOID | SPECIAL;
    b"fieldset" => Fieldset: BLOCK | CLOSES_P | SPECIAL;
    b"figcaption" => Figcaption: BLOCK | CLOSES_P | SPECIAL;
    b"figure" => Figure: BLOCK | CLOSES_P | SPECIAL;
    b"font" => Font: FORMATTING;
    b"footer" => Footer: BLOCK | CLOSES_P | SPECIAL;
    b"footnote" => Footnote: 0;
    b"form" => Form: BLOCK | CLOSES_P | SPECIAL;
    b"frame" => Frame: SPECIAL;
    b"frameset" => Frameset: SPECIAL;
    b"h" => H: 0;
    b"h1" => H1: BLOCK | CLOSES_P | SPECIAL;
    b"h2" => H2: BLOCK | CLOSES_P | SPECIAL;
    b"h3" => H3: BLOCK | CLOSES_P | SPECIAL;
    b"h4" => H4: BLOCK | CLOSES_P | SPECIAL;
    b"h5" => H5: BLOCK | CLOSES_P | SPECIAL;
    b"h6" => H6: BLOCK | CLOSES_P | SPECIAL;
    b"head" => Head: BLOCK | HIDDEN | SPECIAL | IN_HEAD;
    b"header" => Header: BLOCK | CLOSES_P | SPECIAL;
    b"hgroup" => Hgroup: BLOCK | CLOSES_P | SPECIAL;
    b"hr" => Hr: VOID | BLOCK | CLOSES_P | SPECIAL;
    b"html" => Html: BLOCK | SCOPE | SPECIAL | IN_HEAD;
    b"i" => I: FORMATTING;
    b"iframe" => Iframe: HIDDEN | SPECIAL;
    b"img" => Img: VOID | SPECIAL;
    b"input" => Input: VOID | SPECIAL;
    b"ins" => Ins: 0;
    b"kbd" => Kbd: REFUSES_LINKS;
    b"keygen" => Keygen: SPECIAL;
    b"label" => Label: REFUSES_LINKS;
    b"legend" => Legend: BLOCK | REFUSES_LINKS;
    b"li" => Li: BLOCK | CLOSES_P | SPECIAL;
    b"link" => Link: VOID | SPECIAL | IN_HEAD;
    b"listing" => Listing: BLOCK | REFUSES_LINKS | CLOSES_P | SPECIAL;
    b"main" => Main: BLOCK | CLOSES_P | SPECIAL;
    b"map" => Map: 0;
    b"mark" => Mark: 0;
    b"marquee" => Marquee: SCOPE | SPECIAL;
    b"math" => Math: HIDDEN | SCOPE | SPECIAL;
    b"menu" => Menu: BLOCK | CLOSES_P | SPECIAL;
    b"meta" => Meta: VOID | SPECIAL | IN_HEAD;
    b"nav" => Nav: BLOCK | CLOSES_P | SPECIAL;
    b"nobr" => Nobr: FORMATTING;
    b"noembed" => Noembed: HIDDEN | SPECIAL;
    b"noframes" => Noframes: HIDDEN | SPECIAL | IN_HEAD;
    b"noscript" => Noscript: HIDDEN | SPECIAL | IN_HEAD;
    b"object" => Object: HIDDEN | SCOPE | SPECIAL;
    b"ol" => Ol: BLOCK | CLOSES_P | SPECIAL;
    b"optgroup" => Optgroup: BLOCK;
    b"option" => Option: BLOCK | REFUSES_LINKS;
    b"output" => Output: 0;
    b"p" => P: BLOCK | CLOSES_P | SPECIAL;
    b"param" => Param: VOID | SPECIAL;
    b"picture" => Picture: 0;
    b"plaintext" => Plaintext: BLOCK | REFUSES_LINKS | CLOSES_P | SPECIAL;
    b"pre" => Pre: BLOCK | REFUSES_LINKS | CLOSES_P | SPECIAL;
    b"q" => Q: 0;
    b"rp" => Rp: 0;
    b"rt" => Rt: 0;
    b"ruby" => Ruby: 0;
    b"s" => S: FORMATTING;
    b"samp" => Samp: REFUSES_LINKS;
    b"script" => Script: HIDDEN | SPECIAL | IN_HEAD;
    b"search" => Search: BLOCK | CLOSES_P | SPECIAL;
    b"section" => Section: BLOCK | CLOSES_P | SPECIAL;
    b"select" => Select: BLOCK | REFUSES_LINKS | SPECIAL;
    b"slot" => Slot: 0;
    b"small" => Small: FORMATTING;
    b"source" => Source: VOID | SPECIAL;
    b"span" => Span: 0;
    b"strike" => Strike: FORMATTING;
    b"strong" => Strong: FORMATTING;
    b"style" => Style: HIDDEN | SPECIAL | IN_HEAD;
    b"sub" => Sub: 0;
    b"summary" => Summary: BLOCK | CLOSES_P | SPECIAL;
    b"sup" => Sup: 0;
    b"svg" => Svg: HIDDEN | SCOPE | SPECIAL;
    b"table" => Table: BLOCK | CLOSES_P | SCOPE | SPECIAL | TABLE_PART;
    b"tbody" => Tbody: BLOCK | SPECIAL | TABLE_PART;
    b"td" => Td: BLOCK | SCOPE | SPECIAL;
    b"template" => Template: HIDDEN | SCOPE | SPECIAL | IN_HEAD;
    b"textarea" => Textarea: HIDDEN | SPECIAL;
    b"tfoot" => Tfoot: BLOCK | SPECIAL | TABLE_PART;
    b"th" => Th: BLOCK | SCOPE | SPECIAL;
    b"thead" => Thead: BLOCK | SPECIAL | TABLE_PART;
    b"time" => Time: 0;
    b"title" => Title: BLOCK | HIDDEN | SPECIAL | IN_HEAD;
    b"tr" => Tr: BLOCK | SPECIAL | TABLE_PART;
    b"track" => Track: VOID | SPECIAL;
    b"tt" => Tt: REFUSES_LINKS | FORMATTING;
    b"u" => U: FORMATTING;
    b"ul" => Ul: BLOCK | CLOSES_P | SPECIAL;
    b"var" => Var: REFUSES_LINKS;
    b"video" => Video: HIDDEN;
    b"wbr" => Wbr: VOID | SPECIAL;
    b"xmp" => Xmp: BLOCK | HIDDEN | CLOSES_P | SPECIAL;
}

/// No name above is longer.
const LONGEST_NAME: usize = 10;

impl Element {
    /// How many elements are told apart, [`Self::Other`] included.
    pub const COUNT: usize = FLAGS.len();

    /// Of a name in any case. O(1).
    pub fn of(name: &str) -> Self {
        let mut lower = [0; LONGEST_NAME];
        let Some(lower) = lower.get_mut(..name.len()) else { return Self::Other };
        lower.copy_from_slice(name.as_bytes());
        lower.make_ascii_lowercase();
        Self::of_lower_case(lower)
    }

    pub(super) const fn is(self, flag: u16) -> bool {
        FLAGS[self as usize] & flag != 0
    }

    /// Whether it has no content and no end tag.
    pub const fn is_void(self) -> bool {
        self.is(VOID)
    }

    /// Whether a line of text ends before and after it.
    pub const fn is_block(self) -> bool {
        self.is(BLOCK)
    }

    /// Whether readers do not see what stands in it.
    pub const fn is_hidden(self) -> bool {
        self.is(HIDDEN)
    }

    /// Whether no link is put on words in it.
    pub const fn refuses_links(self) -> bool {
        self.is(REFUSES_LINKS)
    }

    /// Whether it marks a piece of code, a key or a variable inside of running text.
    pub const fn is_inline_code(self) -> bool {
        matches!(self, Self::Code | Self::Kbd | Self::Samp | Self::Tt | Self::Var)
    }

    /// Whether it holds code, in running text or in a block of its own.
    pub const fn is_code(self) -> bool {
        self.is_inline_code() || matches!(self, Self::Pre | Self::Listing | Self::Plaintext)
    }

    /// Whether the HTML standard counts it as special.
    pub const fn is_special(self) -> bool {
        self.is(SPECIAL)
    }

    /// Whether the HTML standard counts it as formatting, which is opened again where a block cuts it off.
    pub const fn is_formatting(self) -> bool {
        self.is(FORMATTING)
    }

    /// Whether formatting elements that are left open around it are not opened again in it, nor those in it behind it.
    pub const fn keeps_formatting(self) -> bool {
        use Element::{Applet, Caption, Marquee, Object, Td, Template, Th};
        matches!(self, Applet | Caption | Marquee | Object | Td | Template | Th)
    }

    /// Whether it leaves an open head open.
    pub const fn may_stand_in_head(self) -> bool {
        self.is(IN_HEAD)
    }

    /// Whether it is a table, or a part of one that holds no text itself.
    pub const fn is_table_part(self) -> bool {
        self.is(TABLE_PART)
    }

    /// Whether it has a meaning only inside a table.
    pub const fn is_inside_table(self) -> bool {
        matches!(
            self,
            Self::Td
                | Self::Th
                | Self::Tr
                | Self::Tbody
                | Self::Thead
                | Self::Tfoot
                | Self::Caption
                | Self::Col
                | Self::Colgroup
        )
    }

    /// Whether it is one of `h1` to `h6`.
    pub const fn is_heading(self) -> bool {
        matches!(self, Self::H1 | Self::H2 | Self::H3 | Self::H4 | Self::H5 | Self::H6)
    }

    /// Whether its start closes an open paragraph.
    pub const fn closes_p(self) -> bool {
        self.is(CLOSES_P)
    }

    /// What follows its start tag in HTML, up to its end tag. `noscript` is what a browser that runs scripts makes of it.
    pub const fn content(self) -> Content {
        match self {
            Self::Title | Self::Textarea => Content::Escapable,
            Self::Style | Self::Xmp | Self::Iframe | Self::Noembed | Self::Noframes | Self::Noscript => Content::Raw,
            Self::Script => Content::Script,
            Self::Plaintext => Content::Plain,
            _ => Content::Markup,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_known_in_any_case() {
        assert_eq!(Element::of("BlockQuote"), Element::Blockquote);
        assert_eq!(Element::of("figcaption"), Element::Figcaption);
        assert_eq!(Element::of("my-element"), Element::Other);
        assert_eq!(Element::of("ſvg"), Element::Other);
        assert!(Element::of("em").is_formatting() && !Element::of("em").is_block());
    }
}
