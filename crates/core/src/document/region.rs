//! Where on a page something stands. Decided by landmarks and roles, then by the usual names of classes and ids, then by
//! what a list is made of ([`super::lists`]), and last by repetition across the site ([`crate::site::boilerplate`]).

use super::elements::Element;

/// A part of the page. Boilerplate is everything but content.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Region {
    Content,
    /// Navigation between the pages of the site.
    Menu,
    /// The way from the entry page to this one.
    Breadcrumb,
    /// Table of contents: links to the parts of this page or of what it begins.
    Contents,
    Header,
    Footer,
    Aside,
}

/// What a start tag says that bears on its region.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct RegionSigns<'t> {
    pub role: Option<&'t str>,
    pub id: Option<&'t str>,
    pub class: Option<&'t str>,
    pub label: Option<&'t str>,
    pub item_type: Option<&'t str>,
}

impl Region {
    /// All regions.
    pub const ALL: [Self; 7] =
        [Self::Content, Self::Menu, Self::Breadcrumb, Self::Contents, Self::Header, Self::Footer, Self::Aside];

    /// Its name in the database and in answers.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Content => "content",
            Self::Menu => "menu",
            Self::Breadcrumb => "breadcrumb",
            Self::Contents => "contents",
            Self::Header => "header",
            Self::Footer => "footer",
            Self::Aside => "aside",
        }
    }

    /// The region with this name.
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|region| region.as_str() == word)
    }

    /// The region of an element inside a parent of region `self`.
    ///
    /// `inside_content` says that the element stands within `main` or `article`, where a `header` or `footer` belongs
    /// to the text and not to the site.
    pub(crate) fn of_child(self, element: Element, signs: RegionSigns<'_>, inside_content: bool) -> Self {
        let is_navigation =
            element == Element::Nav || signs.role.is_some_and(|role| role.eq_ignore_ascii_case("navigation"));
        if is_navigation {
            let named = signs.names().chain(signs.label).find_map(Self::of_navigation_name);
            return named.or_else(|| signs.of_item_type()).unwrap_or(Self::Menu);
        }
        if let Some(region) = signs.of_role() {
            return region;
        }
        match element {
            Element::Main => return Self::Content,
            Element::Aside => return Self::Aside,
            Element::Header if !inside_content => return Self::Header,
            Element::Footer if !inside_content => return Self::Footer,
            _ => {}
        }
        let may_be_named = matches!(
            element,
            Element::Div | Element::Ul | Element::Ol | Element::Dl | Element::Table | Element::Section | Element::P
        );
        if self != Self::Content || !may_be_named || signs.says_nothing() {
            return self;
        }
        signs.of_item_type().or_else(|| signs.names().find_map(Self::of_name)).unwrap_or(self)
    }

    fn of_navigation_name(name: &str) -> Option<Self> {
        let name = name.trim();
        let holds =
            |word: &str| name.as_bytes().windows(word.len()).any(|part| part.eq_ignore_ascii_case(word.as_bytes()));
        if holds("breadcrumb") {
            return Some(Self::Breadcrumb);
        }
        (is_contents(name) || holds("on this page")).then_some(Self::Contents)
    }

    fn of_name(name: &str) -> Option<Self> {
        let is = |names: &[&str]| names.iter().any(|known| name.eq_ignore_ascii_case(known));
        if is(&["header", "page-header", "site-header", "masthead"]) {
            Some(Self::Header)
        } else if is(&["footer", "page-footer", "site-footer"]) {
            Some(Self::Footer)
        } else if is(&["sidebar"]) {
            Some(Self::Aside)
        } else if is(&["breadcrumb", "breadcrumbs"]) {
            Some(Self::Breadcrumb)
        } else if is_contents(name) {
            Some(Self::Contents)
        } else if is(&["menu", "toplang", "bottomlang"]) || name.get(..3).is_some_and(|n| n.eq_ignore_ascii_case("nav"))
        {
            Some(Self::Menu)
        } else {
            None
        }
    }
}

fn is_contents(name: &str) -> bool {
    ["toc", "table-of-contents", "table of contents", "tableofcontents", "contents"]
        .iter()
        .any(|known| name.eq_ignore_ascii_case(known))
}

impl<'t> RegionSigns<'t> {
    fn says_nothing(self) -> bool {
        self.id.is_none() && self.class.is_none() && self.item_type.is_none()
    }

    fn names(self) -> impl Iterator<Item = &'t str> {
        self.id.into_iter().chain(self.class).flat_map(str::split_ascii_whitespace)
    }

    fn of_role(self) -> Option<Region> {
        let role = self.role?.trim();
        let known = [
            ("main", Region::Content),
            ("banner", Region::Header),
            ("contentinfo", Region::Footer),
            ("complementary", Region::Aside),
            ("doc-toc", Region::Contents),
        ];
        known.into_iter().find(|(name, _)| role.eq_ignore_ascii_case(name)).map(|(_, region)| region)
    }

    fn of_item_type(self) -> Option<Region> {
        self.item_type.is_some_and(|kind| kind.ends_with("/BreadcrumbList")).then_some(Region::Breadcrumb)
    }
}
