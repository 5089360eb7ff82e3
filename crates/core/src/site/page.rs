//! What the site model knows of one page.

use chrono::NaiveDate;
use serde::{Deserialize, Serialize};

use super::address::{Address, Destination};
use crate::document::{Head, HeadLink};
use crate::ids::PageId;
use crate::language::Language;

/// What kind of page it is, as the site says or its address shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum PageKind {
    Page,
    Post,
    Product,
    Collection,
    TermArchive,
    File,
}

impl PageKind {
    /// All kinds.
    pub const ALL: [Self; 6] = [Self::Page, Self::Post, Self::Product, Self::Collection, Self::TermArchive, Self::File];

    /// Its name in the database and in answers.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Page => "page",
            Self::Post => "post",
            Self::Product => "product",
            Self::Collection => "collection",
            Self::TermArchive => "term archive",
            Self::File => "file",
        }
    }

    /// The kind with this name.
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.as_str() == word)
    }

    /// The kind that a page's own words about itself tell: its microformats2 root, then its Open Graph type.
    ///
    /// `is_term` says that other pages link to it with `rel=tag`.
    pub fn from_signs(microformat: Option<&str>, open_graph: Option<&str>, is_term: bool) -> Self {
        match (microformat, open_graph) {
            _ if is_term => Self::TermArchive,
            (Some("h-product"), _) | (_, Some("product")) => Self::Product,
            (Some("h-feed"), _) => Self::Collection,
            (_, Some("article")) => Self::Post,
            _ => Self::Page,
        }
    }
}

/// What a page says of its place on the site and in time.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Standing {
    /// It asks search engines to leave it out.
    pub noindex: bool,
    /// Another page that it names as the one that should be linked to in its stead.
    pub canonical: Option<Address>,
    /// The same page in other languages.
    pub versions: Vec<LanguageVersion>,
    /// The day on which it was first published.
    pub published: Option<NaiveDate>,
}

/// The same page in another language.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LanguageVersion {
    /// As written: BCP 47, or `x-default`.
    pub language: String,
    pub address: Address,
}

impl Standing {
    /// What the head of the page at `address` says. O(links of the head).
    pub fn of(head: &Head, address: &Address) -> Self {
        let follow = |href: &str| match address.follow(href) {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        };
        let version = |link: &HeadLink| {
            let language = link.language.clone().filter(|_| link.rel.iter().any(|rel| rel == "alternate"))?;
            let address = follow(&link.href).filter(|other| other != address)?;
            Some(LanguageVersion { language, address })
        };
        Self {
            noindex: head.noindex,
            canonical: head.link("canonical").and_then(follow).filter(|other| other != address),
            versions: head.links.iter().filter_map(version).take(MOST_VERSIONS).collect(),
            published: head.published.as_deref().and_then(day_of),
        }
    }
}

/// The day of a date, or of a date and time, as in ISO 8601.
pub fn day_of(date: &str) -> Option<NaiveDate> {
    let day = date.trim().get(..10)?;
    NaiveDate::parse_from_str(day, "%Y-%m-%d").ok()
}

/// More versions than there are languages in use on any site are a mistake.
const MOST_VERSIONS: usize = 200;

/// What is known about a page besides its text and its links.
#[derive(Debug, Clone)]
pub struct PageFacts {
    pub id: PageId,
    pub address: Address,
    pub kind: PageKind,
    pub title: String,
    pub heading: Option<String>,
    pub category: Option<String>,
    /// Words of its content.
    pub words: u32,
    pub language: Language,
    /// Whether its source can be had and changed through the site's editing interface.
    pub editable: bool,
    pub standing: Standing,
}
