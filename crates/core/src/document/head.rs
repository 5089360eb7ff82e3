//! What a page says about itself outside of its visible text.

/// Facts from the `head`, and from root class names where they follow microformats2.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Head {
    /// Text of `<title>`, white space folded.
    pub title: Option<String>,
    /// `lang` of the `html` element.
    pub language: Option<String>,
    pub canonical: Option<String>,
    /// `content` of `<meta property="og:type">`.
    pub open_graph_type: Option<String>,
    /// Whether `<meta name="robots">` says `noindex`.
    pub noindex: bool,
    /// The `href` of `<base>`.
    pub base: Option<String>,
    /// The first microformats2 root on the page, such as `h-entry`.
    pub microformat: Option<String>,
    /// The first text linked with the class `p-category`.
    pub category: Option<String>,
}
