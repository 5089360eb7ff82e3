//! Where on a page something stands. Decided by landmarks and roles, then by the usual names of classes and ids.
//! What repetition across the site tells is not looked at here.

/// A part of the page. Furniture is everything but content.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Region {
    Content,
    /// Navigation of any kind, breadcrumbs included.
    Menu,
    Header,
    Footer,
    Aside,
}

impl Region {
    pub const ALL: [Self; 5] = [Self::Content, Self::Menu, Self::Header, Self::Footer, Self::Aside];

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Content => "content",
            Self::Menu => "menu",
            Self::Header => "header",
            Self::Footer => "footer",
            Self::Aside => "aside",
        }
    }

    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|region| region.as_str() == word)
    }

    /// The region of an element inside a parent of region `self`.
    ///
    /// `inside_content` says that the element stands within `main` or `article`, where a `header` or `footer` belongs
    /// to the text and not to the site.
    pub(crate) fn of_child(self, element: &str, role: Option<&str>, names: &str, inside_content: bool) -> Self {
        match (role, element) {
            (Some("navigation"), _) | (_, "nav") => return Self::Menu,
            (Some("main"), _) | (_, "main") => return Self::Content,
            (Some("banner"), _) => return Self::Header,
            (Some("contentinfo"), _) => return Self::Footer,
            (Some("complementary"), _) | (_, "aside") => return Self::Aside,
            (_, "header") if !inside_content => return Self::Header,
            (_, "footer") if !inside_content => return Self::Footer,
            _ => {}
        }
        if self != Self::Content || !matches!(element, "div" | "ul" | "ol" | "table" | "section" | "p") {
            return self;
        }
        names.split([' ', '\t', '\n']).find_map(Self::of_name).unwrap_or(self)
    }

    fn of_name(name: &str) -> Option<Self> {
        let name = name.to_ascii_lowercase();
        match name.as_str() {
            "header" | "page-header" | "site-header" | "masthead" => Some(Self::Header),
            "footer" | "page-footer" | "site-footer" => Some(Self::Footer),
            "sidebar" => Some(Self::Aside),
            "breadcrumb" | "breadcrumbs" | "menu" | "toplang" | "bottomlang" => Some(Self::Menu),
            _ if name.starts_with("nav") => Some(Self::Menu),
            _ => None,
        }
    }
}
