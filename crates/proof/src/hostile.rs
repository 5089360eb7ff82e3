//! Pages made to be slow to read.

/// One kind of hostile page.
#[derive(Debug, Clone, Copy)]
pub struct Hostile {
    pub name: &'static str,
    start: &'static str,
    piece: &'static str,
    end: &'static str,
}

impl Hostile {
    /// All ways to tear a page.
    pub const ALL: [Self; 18] = [
        Self::of("nested blocks", "", "<div>x", ""),
        Self::of("nested formatting", "", "<b>x", ""),
        Self::of("nested links", "", "<a href=x>x", ""),
        Self::of("nested lists", "", "<ul><li>x", ""),
        Self::of("nested tables", "", "<table><tr><td>x", ""),
        Self::of("unclosed paragraphs with formatting", "", "<p><i>x", ""),
        Self::of("crossed formatting", "", "<b><i>x</b></i>", ""),
        Self::of("stray end tags", "", "x</em></p>", ""),
        Self::of("unclosed tags", "", "<a href=\"x", ""),
        Self::of("many attributes", "<a ", "h=x ", "href=y>z</a>"),
        Self::of("unclosed comments", "", "<!-- - --", ""),
        Self::of("less-than signs", "", "<", ""),
        Self::of("ampersands", "", "&", ""),
        Self::of("names of references", "&", "abcd", ""),
        Self::of("a huge number", "&#", "9999", ";"),
        Self::of("scripts", "", "<script><!--<script>", ""),
        Self::of("raw text that does not end", "<title>", "</titl", ""),
        Self::of("marked sections", "<svg>", "<![CDATA[]]", ""),
    ];

    /// Those that make sense in Markdown.
    pub const MARKDOWN: [Self; 9] = [
        Self::of("brackets", "", "[", ""),
        Self::of("links in brackets", "", "[a](", ""),
        Self::of("emphasis", "", "*a_ ", ""),
        Self::of("quotes", "", "> ", "x"),
        Self::of("lists", "", "- ", "x"),
        Self::of("code marks", "", "` ``", ""),
        Self::of("definitions", "", "[a]: x\n", ""),
        Self::of("HTML", "", "<a href=x>", ""),
        Self::of("tables", "a|b\n-|-\n", "x|", ""),
    ];

    const fn of(name: &'static str, start: &'static str, piece: &'static str, end: &'static str) -> Self {
        Self { name, start, piece, end }
    }

    /// A page of about `bytes` bytes.
    pub fn page(&self, bytes: usize) -> String {
        let count = bytes / self.piece.len();
        format!("{}{}{}", self.start, self.piece.repeat(count), self.end)
    }
}
