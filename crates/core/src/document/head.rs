//! What a page says about itself outside of its visible text.

/// A `<link>` element.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HeadLink {
    /// Lower-case tokens.
    pub rel: Vec<String>,
    pub href: String,
    /// `hreflang`: the language of what it leads to.
    pub language: Option<String>,
    /// The media type of what it leads to, in lower case.
    pub media_type: Option<String>,
}

/// Facts from the `head`, and from root class names where they follow microformats2.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Head {
    /// Text of `<title>`, white space folded.
    pub title: Option<String>,
    /// `lang` of the `html` element.
    pub language: Option<String>,
    /// `<link>` elements with `rel` and `href`, in source order.
    pub links: Vec<HeadLink>,
    /// `content` of `<meta property="og:type">`.
    pub open_graph_type: Option<String>,
    /// Whether `<meta name="robots">` says `noindex` or `none`.
    pub noindex: bool,
    /// The `href` of `<base>`.
    pub base: Option<String>,
    /// Where `<meta http-equiv="refresh">` sends.
    pub refresh: Option<String>,
    /// After how many seconds it does.
    pub refresh_seconds: u32,
    /// The first microformats2 root on the page, such as `h-entry`.
    pub microformat: Option<String>,
    /// When the page was first published, as written: by Open Graph, microformats2 or schema.org.
    pub published: Option<String>,
    /// The first text linked with the class `p-category`.
    pub category: Option<String>,
}

impl Head {
    /// Feeds of the site.
    pub fn feeds(&self) -> impl Iterator<Item = &str> {
        const TYPES: [&str; 3] = ["application/rss+xml", "application/atom+xml", "application/feed+json"];
        let is_feed = |link: &&HeadLink| {
            link.rel.iter().any(|rel| rel == "alternate")
                && link.media_type.as_deref().is_some_and(|kind| TYPES.contains(&kind))
        };
        self.links.iter().filter(is_feed).map(|link| link.href.as_str())
    }

    /// The `href` of the first `<link>` with this token in its `rel`.
    pub fn link(&self, rel: &str) -> Option<&str> {
        self.links.iter().find(|link| link.rel.iter().any(|token| token == rel)).map(|link| link.href.as_str())
    }
}
